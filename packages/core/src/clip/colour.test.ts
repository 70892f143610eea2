import { describe, expect, it } from 'vitest'
import { colourMeaning, colourWords } from './index.ts'

const tags = (primaries: string, transfer = primaries, matrix = primaries, range = 'tv') => ({ primaries, transfer, matrix, range })

describe('colour tags', () => {
  it('that agree are said once', () => {
    expect(colourWords(tags('bt709'))).toBe('BT.709, limited range')
    expect(colourWords(tags('bt2020', 'smpte2084', 'bt2020nc'))).toBe('BT.2020, PQ, limited range')
    expect(colourWords(tags('bt709', 'iec61966-2-1', 'gbr', 'pc'))).toBe('BT.709, sRGB, RGB, full range')
  })
  it('that are not there are said to be so, and what stands in', () => {
    expect(colourWords(tags('unknown', 'unknown', 'unknown', 'unknown'))).toBe('no tags')
    expect(colourMeaning(tags('unknown')).map((r) => [r.tag, r.name, r.meaning])[0]).toEqual(['Primaries', 'not tagged', 'read as BT.709'])
  })
  it('have a meaning each', () => {
    expect(colourMeaning(tags('bt2020', 'arib-std-b67', 'bt2020nc', 'pc'))).toEqual([
      { tag: 'Primaries', name: 'BT.2020', meaning: 'the wide colours of UHD and HDR' },
      { tag: 'Transfer', name: 'HLG', meaning: 'HDR that ordinary screens can show too (hybrid log-gamma)' },
      { tag: 'Matrix', name: 'BT.2020', meaning: 'brightness and colour apart, weighed as for UHD' },
      { tag: 'Range', name: 'full', meaning: 'black is 0 and white the largest value' },
    ])
  })
  it('that nobody knows are named as they are written', () => {
    expect(colourWords(tags('other-tag', 'unknown', 'unknown', ''))).toBe('other-tag')
    expect(colourMeaning(tags('other-tag'))[0]?.meaning).toContain('carried on as it is')
  })
})
