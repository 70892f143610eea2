import { describe, expect, it } from 'vitest'
import type { CutEvent } from '../cutlist/index.ts'
import { nameMatcher } from '../naming/index.ts'
import { bentOriginals, bentWays } from '../testing/index.ts'
import { hopeless, pathsOf, weigh } from './evidence.ts'
import type { ClipFacts } from './model.ts'

const how = (event: CutEvent, cutRate: ClipFacts['rate']) => ({
  ...{ cutRate, count: 'auto' as const, reelKnown: true, folderKnown: () => false, nameKnown: true, ...pathsOf(event) },
  names: [event.clipName, event.sourceFile].flatMap((name) => (name === null ? [] : { name, match: nameMatcher(name) })),
})

describe('a clip that is passed over', () => {
  const clips = bentOriginals(5)
  it('has two things against it, and no copy that is named, whatever was bent', () => {
    let [passed, kept] = [0, 0]
    const wrong: string[] = []
    for (const { cut } of bentWays(clips, 2, 9))
      for (const event of cut.events) {
        const asked = how(event, cut.rate)
        for (const clip of clips) {
          if (!hopeless(event, clip, asked)) {
            kept++
            continue
          }
          passed++
          const weighed = weigh(event, clip, asked)
          const against = weighed?.evidence.flatMap((e) => (e.agreement === 'contradicts' ? e.kind : []))
          if (against && !(against.includes('name') && against.includes('timecode'))) wrong.push(`${event.clipName} ${clip.name}: ${against.join()}`)
          if (weighed?.evidence.some((e) => e.kind === 'stamp')) wrong.push(`${event.clipName} ${clip.name}: its copy is named`)
        }
      }
    expect(wrong).toEqual([])
    expect(passed).toBeGreaterThan(kept)
    expect(kept).toBeGreaterThan(30)
  })
  it('is none whose copy the list names, or whose timecode a rule leaves out', () => {
    const event = { ...bentWays(clips, 1, 9)[0]?.cut.events[0], clipName: 'nobody.mov', sourceFile: '/Copies/one.mov' } as CutEvent
    const clip = { ...(clips[0] as ClipFacts), copies: ['/Copies/one.mov'] }
    const asked = how({ ...event, sourceFile: null }, clip.rate)
    const far = { ...clip, start: (clip.start ?? 0) + 40_000_000, copies: [] }
    expect(hopeless(event, far, asked)).toBe(true)
    expect(hopeless(event, { ...far, copies: ['/Copies/one.mov'] }, how(event, clip.rate))).toBe(false)
    expect(hopeless(event, far, { ...asked, noTimecode: true })).toBe(false)
  })
})
