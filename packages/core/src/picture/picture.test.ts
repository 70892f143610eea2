import { describe, expect, it } from 'vitest'
import { checkFrame, likeness, sampleBytes } from './index.ts'

describe('likeness', () => {
  const picture = (f: (i: number) => number) => Uint8Array.from({ length: sampleBytes }, (_, i) => f(i))
  const moving = (t: number) => picture((i) => (((i % 96) + t * 3) % 96) * 2)
  it('is one for the same picture and little for another', () => {
    expect(likeness(moving(0), moving(0))).toBe(1)
    expect(
      likeness(
        picture(() => 0),
        picture(() => 255),
      ),
    ).toBe(0)
    expect(likeness(moving(0), new Uint8Array(3))).toBe(0)
  })
  it('finds a picture that is a frame off, and by how many', () => {
    const around = [-2, -1, 0, 1, 2].map((d) => moving(10 + d))
    expect(checkFrame(moving(10), around)).toMatchObject({ passed: true, offset: 0, unprovable: false })
    expect(checkFrame(moving(11), around)).toMatchObject({ passed: false, offset: 1 })
    expect(checkFrame(moving(8), around)).toMatchObject({ passed: false, offset: -2 })
  })
  it('says of a picture that stands still that it proves nothing', () => {
    const still = picture((i) => i % 251)
    expect(checkFrame(still, [still, still, still, still, still])).toMatchObject({ passed: true, unprovable: true })
  })
  it('takes a picture that its coding repeated for what it is, by those beside it; a stream that is shifted it does not', () => {
    const around = [-2, -1, 0, 1, 2].map((d) => moving(10 + d))
    expect(checkFrame(moving(9), around)).toMatchObject({ offset: -1 })
    expect(checkFrame(moving(9), around, [moving(9), moving(11)])).toMatchObject({ offset: 0 })
    expect(checkFrame(moving(9), around, [moving(8), moving(10)])).toMatchObject({ offset: -1, passed: false })
    expect(checkFrame(moving(9), [...around.slice(0, 3), null, null], [moving(9), null])).toMatchObject({ offset: 0 })
  })
  it('fails what is too unlike, and what has no source', () => {
    expect(
      checkFrame(
        picture(() => 90),
        [picture(() => 100)],
      ),
    ).toMatchObject({ passed: false, level: -10 })
    expect(checkFrame(moving(0), [null]).passed).toBe(false)
  })
})
