/** How raw clips are developed for looking, and for what is finished. */
import { plainDecode } from '@naranja/core/raw'
import { rate } from '@naranja/core/time'
import { emptyTechnical } from '@naranja/media'
import { describe, expect, it } from 'vitest'
import { finishingInput, inputOf, shownAs } from './decode.ts'

const technical = { ...emptyTechnical, rate: rate(25), raw: { camera: null, toCamera: null, neutral: [1, 1, 1] as const } }
const half = { ...plainDecode, size: 'half' as const, exposure: 1 }
const project = { settings: half, display: 'soft' as const }
const path = Buffer.from('/a/1.dng')

describe('a raw clip', () => {
  it('is looked at as its settings say, or the project’s, and finished at full size with all else the same', () => {
    expect(inputOf(path, { technical, decode: null }, project).raw).toMatchObject({ settings: half, display: 'soft' })
    expect(finishingInput(path, { technical, decode: null }, project).raw).toMatchObject({ settings: { ...half, size: 'full' }, display: 'soft' })
    const own = { ...half, exposure: -1 }
    expect(finishingInput(path, { technical, decode: own }, project).raw?.settings).toEqual({ ...own, size: 'full' })
    expect(finishingInput(path, { technical: emptyTechnical, decode: null }, project).raw).toBeUndefined()
  })
  it('is made anew where its settings change, and only then', () => {
    const c = { technical, decode: null }
    expect(shownAs(c, project)).not.toBe(shownAs({ ...c, decode: plainDecode }, project))
    expect(shownAs(c, project)).toBe(shownAs({ ...c, decode: half }, project))
    expect(shownAs({ technical: emptyTechnical, decode: null }, project)).toBe('')
  })
})
