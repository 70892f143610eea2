import { describe, expect, it } from 'vitest'
import { advise } from './index.ts'

type Clip = Parameters<typeof advise>[0][number]

const clip = (over: Partial<Clip> = {}): Clip =>
  ({
    ...{ codec: 'H.264 High', width: 1920, height: 1080, longGop: true, hasPicture: true, fault: null, stamp: null, isSequence: false, variable: false },
    ...over,
  }) as Clip
const easy = { codec: 'ProRes 422', longGop: false }

describe('the way to cut', () => {
  it('is the originals where all edit easily', () => {
    expect(advise([clip(easy), clip(easy)])).toMatchObject({
      way: 'originals',
      reasons: ['2 of 2 clips store every frame on its own, none larger than 2048 pixels across.'],
    })
  })
  it('is intermediates where they are hard to edit but not large', () => {
    expect(advise([clip(), clip(easy)])).toMatchObject({
      way: 'intermediates',
      reasons: ['1 of 2 clips stores most frames as changes to others (long-GOP), which is slow to cut.'],
    })
  })
  it('is proxies where a third or more are large, or sequences', () => {
    const uhd = clip({ width: 4096, height: 2160 })
    expect(advise([uhd, clip(), clip()])?.way).toBe('proxies')
    expect(advise([uhd, clip(), clip(), clip()])?.way).toBe('intermediates')
    expect(advise([clip({ isSequence: true, longGop: false })])?.way).toBe('proxies')
  })
  it('counts neither what cannot be decoded, nor sound, nor edit copies', () => {
    expect(advise([clip({ fault: 'x' }), clip({ hasPicture: false }), clip({ stamp: 's' })])).toBeNull()
    expect(advise([clip(easy), clip({ fault: 'x' })])?.way).toBe('originals')
  })
  it('names uneven rates', () => {
    expect(advise([clip({ ...easy, variable: true })])).toMatchObject({ way: 'intermediates', reasons: [expect.stringContaining('uneven times')] })
  })
})
