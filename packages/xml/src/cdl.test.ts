import { plainCdl } from '@naranja/core/look'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readCdl } from './cdl.ts'

describe('a color decision list', () => {
  it('is read from its collection, with ids', () => {
    const text = `<ColorCorrectionCollection xmlns="urn:ASC:CDL:v1.2">
      <ColorCorrection id="a"><SOPNode><Slope>1.1 1 0.9</Slope><Offset>0 0.01 -0.02</Offset><Power>1 1.2 1</Power></SOPNode><SatNode><Saturation>0.9</Saturation></SatNode></ColorCorrection>
      <ColorCorrection id="b"><SATNode><Saturation>2</Saturation></SATNode></ColorCorrection></ColorCorrectionCollection>`
    expect(readCdl(text)).toEqual({
      problems: [],
      value: [
        { id: 'a', cdl: { slope: [1.1, 1, 0.9], offset: [0, 0.01, -0.02], power: [1, 1.2, 1], saturation: 0.9 } },
        { id: 'b', cdl: { ...plainCdl, saturation: 2 } },
      ],
    })
  })
  it('that is wrong says what, and the rest is read', () => {
    const text =
      '<ColorDecisionList><ColorDecision><ColorCorrection id="x"><SOPNode><Slope>1 1</Slope></SOPNode></ColorCorrection></ColorDecision><ColorDecision><ColorCorrection id="y"/></ColorDecision></ColorDecisionList>'
    expect(readCdl(text).problems).toEqual(['x: Slope is not three numbers.'])
    expect(readCdl('<a>').problems[0]).toMatch(/^Line 1/)
    expect(readCdl('<ColorCorrection id="z"><SOPNode><Power>0 1 1</Power></SOPNode></ColorCorrection>').problems[0]).toMatch(/power that is not above 0/)
    fc.assert(fc.property(fc.string(), (s) => void readCdl(s)))
  })
})
