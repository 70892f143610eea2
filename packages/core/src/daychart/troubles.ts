/** What is wrong on the day chart at a glance: timecode that is there twice on one roll, pictures that nobody recorded sound for. */

export interface HeardClip {
  readonly id: string
  readonly lane: string
  readonly day: string
  /** Seconds of timecode from midnight; null without timecode. */
  readonly start: number | null
  /** Seconds it lasts. */
  readonly length: number
  /** A recorder's clip, without picture. */
  readonly recorder: boolean
  /** It has sound of its own. */
  readonly hasSound: boolean
}

export interface Troubles {
  /** Clips whose timecode another clip of the same roll and day has too, in part or whole. */
  readonly doubled: ReadonlySet<string>
  /** Pictures without sound of their own that no recorder of their day covers from beginning to end. None where the day has no recorder. */
  readonly unheard: ReadonlySet<string>
  /** Stretches of a camera's roll and day with nothing between two clips, longest first, in seconds. */
  readonly gaps: readonly { readonly lane: string; readonly day: string; readonly after: string; readonly seconds: number }[]
}

/** Rounding of rates must not make neighbours overlap. */
const hair = 0.02

export function dayTroubles(clips: readonly HeardClip[]): Troubles {
  const doubled = new Set<string>()
  const unheard = new Set<string>()
  const gaps: Troubles['gaps'][number][] = []
  const timed = clips.filter((c): c is HeardClip & { start: number } => c.start !== null).sort((a, b) => a.start - b.start)
  const last = new Map<string, HeardClip & { start: number }>()
  for (const c of timed) {
    const key = `${c.day}\0${c.lane}`
    const before = last.get(key)
    if (before) {
      const end = before.start + before.length
      if (c.start < end - hair) {
        doubled.add(c.id)
        doubled.add(before.id)
      } else if (!c.recorder && c.start > end + hair) gaps.push({ lane: c.lane, day: c.day, after: before.id, seconds: c.start - end })
    }
    // Of two that overlap the one that lasts longer is what the next is held against.
    if (!before || c.start + c.length > before.start + before.length) last.set(key, c)
  }
  const heard = new Map<string, { in: number; out: number }[]>()
  for (const c of timed) {
    if (!c.recorder) continue
    const list = heard.get(c.day) ?? []
    const end = list.at(-1)
    if (end && c.start <= end.out + hair) end.out = Math.max(end.out, c.start + c.length)
    else list.push({ in: c.start, out: c.start + c.length })
    heard.set(c.day, list)
  }
  for (const c of timed) {
    const list = heard.get(c.day)
    if (c.recorder || c.hasSound || !list) continue
    if (!list.some((h) => h.in <= c.start + hair && c.start + c.length <= h.out + hair)) unheard.add(c.id)
  }
  return { doubled, unheard, gaps: gaps.sort((a, b) => b.seconds - a.seconds) }
}
