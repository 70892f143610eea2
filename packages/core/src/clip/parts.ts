/** Recordings that a camera split into several files: by their names first, then by what they hold. */
import { sameRate, seconds } from '../time/index.ts'
import { byTime, type Technical } from './model.ts'

/**
 * The number of a part behind a name that has a number of its own: `A002C005_002.mov` is part 2 of `A002C005_`; or of two digits between
 * letters and a clip's four: `GH020034.mp4` is part 2 of `GH`, `0034`.
 */
function partName(name: string): { base: string; part: number; ext: string } | null {
  const behind = /^(.*\d.*[_\-. ])(\d{1,3})(\.[A-Za-z0-9]{2,5})$/.exec(name)
  if (behind) return { base: behind[1] ?? '', part: Number(behind[2]), ext: behind[3] ?? '' }
  const within = /^([A-Za-z]{1,4})(\d{2})(\d{4})(\.[A-Za-z0-9]{2,5})$/.exec(name)
  return within ? { base: `${within[1]} ${within[3]}`, part: Number(within[2]), ext: within[4] ?? '' } : null
}

/** Whether a name is one that a part of a recording may have: others may follow it. */
export const mayBePart = (name: string): boolean => partName(name) !== null

/** Names of one folder that may be parts of one recording: numbered from 0 or 1 without a gap, two or more. In their order. */
export function splitNames(names: readonly string[]): string[][] {
  const groups = new Map<string, { part: number; name: string }[]>()
  for (const name of names) {
    const p = partName(name)
    if (!p) continue
    const key = JSON.stringify([p.base, p.ext.toLowerCase()])
    groups.set(key, [...(groups.get(key) ?? []), { part: p.part, name }])
  }
  return [...groups.values()].flatMap((g) => {
    const parts = g.sort((a, b) => a.part - b.part)
    const first = parts[0]?.part ?? -1
    return parts.length > 1 && (first === 0 || first === 1) && parts.every((p, i) => p.part === first + i) ? [parts.map((p) => p.name)] : []
  })
}

export interface PartFacts {
  readonly technical: Technical
  /** Bytes. */
  readonly size: number
  /** When it was last written, in milliseconds. */
  readonly modified: number
}

/** Sizes at which file systems and cameras end a file: 2 and 4 GiB. */
const limits = [2 ** 31, 2 ** 32]
const near = (a: number, b: number): boolean => Math.abs(a - b) <= 0.02 * b

/**
 * Whether files are one recording: alike in every way, each beginning at the very frame that the one before ends at; and as
 * takes recorded one after another may do that too, each was written right on after the one before (within 3 s), or all but
 * the last were ended by their size.
 */
export function oneRecording(parts: readonly PartFacts[]): boolean {
  if (parts.length < 2) return false
  const full = parts.slice(0, -1)
  const bySize =
    full.every((p) => limits.some((l) => near(p.size, l))) ||
    (full.length > 1 && full.every((p) => near(p.size, full[0]?.size ?? 0)) && (parts.at(-1)?.size ?? 0) <= (full[0]?.size ?? 0) * 1.02)
  return parts.every((b, i) => {
    const a = parts[i - 1]
    if (b.technical.fault || b.technical.start === null) return false
    // Read as one they must be found by their times.
    if (!byTime(b.technical.reading)) return false
    if (!a) return true
    const [s, t] = [a.technical, b.technical]
    const alike =
      s.codec === t.codec &&
      s.width === t.width &&
      s.height === t.height &&
      sameRate(s.rate, t.rate) &&
      s.drop === t.drop &&
      s.sound?.channels === t.sound?.channels
    const rightOn = Math.abs(b.modified - a.modified - seconds(t.frames, t.rate) * 1000) <= 3000
    return alike && t.start === (s.start as number) + s.frames && (bySize || rightOn)
  })
}

/** The facts of a clip in parts: those of its first, over the length of all. */
export function joined(parts: readonly PartFacts[], names: readonly string[]): Technical {
  const first = (parts[0] as PartFacts).technical
  const frames = parts.reduce((n, p) => n + p.technical.frames, 0)
  const bytes = parts.reduce((n, p) => n + p.size, 0)
  return {
    ...first,
    frames,
    dataRate: Math.round((bytes * 8) / seconds(frames, first.rate)),
    parts: parts.map((p, i) => ({ name: names[i] ?? '', frames: p.technical.frames })),
  }
}
