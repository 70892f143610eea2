import { describe, expect, it } from 'vitest'
import { colourMeaning, colourWords, seenColour, seenMatrix } from './index.ts'

const tags = (primaries: string, transfer = primaries, matrix = primaries, range = 'tv') => ({ primaries, transfer, matrix, range })

describe('colour tags', () => {
  it('that agree are said once', () => {
    expect(colourWords(tags('bt709'))).toBe('BT.709, limited range')
    expect(colourWords(tags('bt2020', 'smpte2084', 'bt2020nc'))).toBe('BT.2020, PQ, limited range')
    expect(colourWords(tags('bt709', 'iec61966-2-1', 'gbr', 'pc'))).toBe('BT.709, sRGB, RGB, full range')
  })
  it('that are not there are said to be so, and what stands in', () => {
    expect(colourWords(tags('unknown', 'unknown', 'unknown', 'unknown'))).toBe('no tags')
    expect(colourMeaning({ width: 1920, height: 1080, colour: tags('unknown') }).map((r) => [r.tag, r.name, r.meaning])[0]).toEqual([
      'Primaries',
      'not tagged',
      'read as BT.709, by its 1080 lines',
    ])
  })
  it('have a meaning each', () => {
    expect(colourMeaning({ width: 3840, height: 2160, colour: tags('bt2020', 'arib-std-b67', 'bt2020nc', 'pc') })).toEqual([
      { tag: 'Primaries', name: 'BT.2020', meaning: 'the wide colours of UHD and HDR' },
      { tag: 'Transfer', name: 'HLG', meaning: 'HDR that ordinary screens can show too (hybrid log-gamma)' },
      { tag: 'Matrix', name: 'BT.2020', meaning: 'brightness and colour apart, weighed as for UHD' },
      { tag: 'Range', name: 'full', meaning: 'black is 0 and white the largest value' },
    ])
  })
  it.each([
    [1920, 1080, 'bt709'],
    [1280, 720, 'bt709'],
    [720, 1280, 'bt709'],
    [1024, 576, 'bt470bg'],
    [720, 480, 'smpte170m'],
    [640, 360, 'smpte170m'],
  ])('that are not there are assumed by the lines: %i×%i is %s', (width, height, matrix) => {
    expect(seenMatrix({ width, height, colour: tags('unknown') })).toBe(matrix)
    expect(seenColour({ width, height, colour: tags('unknown', 'unknown', 'unknown', 'unknown') })).toMatchObject({ matrix, primaries: matrix, range: 'tv' })
    expect(seenMatrix({ width, height, colour: tags('bt2020', 'bt2020-10', 'bt2020nc') })).toBe('bt2020nc')
  })
  it('that nobody knows are named as they are written', () => {
    expect(colourWords(tags('other-tag', 'unknown', 'unknown', ''))).toBe('other-tag')
    expect(colourMeaning({ width: 64, height: 36, colour: tags('other-tag') })[0]?.meaning).toContain('passed on unchanged')
  })
})
