/** Which channels of an original go where in a copy. */
import type { SoundRule } from './model.ts'

/** One sound stream of a copy. */
export interface SoundStream {
  /** Channels of the original, from 0, in order; of a mix-down, those that are mixed. */
  readonly channels: readonly number[]
  readonly mixed: boolean
  /** Channels of the stream. */
  readonly width: number
  /** Names of its channels, as far as they have any. */
  readonly name: string | null
}

/** The streams of an original that are taken as they are: those in which some channel is wanted. */
export function wholeStreams(
  rule: SoundRule,
  sound: { readonly streams: readonly number[] } | null,
  silent: readonly number[] | null,
  names: readonly (string | null)[] = [],
): SoundStream[] {
  const wanted = new Set(soundUnder({ ...rule, coding: 'pcm24', streams: 'as-original' }, sound, silent).flatMap((s) => s.channels))
  let first = 0
  return (sound?.streams ?? []).flatMap((n) => {
    const channels = Array.from({ length: n }, (_, i) => first + i)
    first += n
    return channels.some((c) => wanted.has(c))
      ? [
          {
            channels,
            mixed: false,
            width: n,
            name:
              channels
                .map((c) => names[c])
                .filter(Boolean)
                .join(', ') || null,
          },
        ]
      : []
  })
}

/**
 * The streams of a copy. `streams`: channels of each stream of the original. `silent`: channels (from 0) in which nothing is heard; null where
 * nobody has listened yet: then none counts as silent. `alone`: every channel gets a stream of its own, whatever the rule says.
 */
export function soundUnder(
  rule: SoundRule,
  sound: { readonly streams: readonly number[] } | null,
  silent: readonly number[] | null,
  names: readonly (string | null)[] = [],
  alone = false,
): SoundStream[] {
  if (!sound || rule.channels === 'none') return []
  const count = sound.streams.reduce((n, c) => n + c, 0)
  const all = Array.from({ length: count }, (_, i) => i)
  const heard = all.filter((c) => !silent?.includes(c))
  // A clip that is silent throughout keeps its channels: a copy without sound would be another kind of thing.
  const taken = rule.channels === 'chosen' ? all.filter((c) => rule.chosen.includes(c + 1)) : rule.channels === 'all' || heard.length === 0 ? all : heard
  const named = (channels: readonly number[]): string | null =>
    channels
      .map((c) => names[c])
      .filter(Boolean)
      .join(', ') || null
  if (taken.length === 0) return []
  if (rule.channels === 'mix') {
    const pair: SoundStream = { channels: taken, mixed: true, width: 2, name: 'Mix-down' }
    return alone ? [0, 1].map(() => ({ ...pair, width: 1 })) : [pair]
  }
  const stream = (channels: readonly number[]): SoundStream => ({ channels, mixed: false, width: channels.length, name: named(channels) })
  if (alone || rule.streams === 'each-alone') return taken.map((c) => stream([c]))
  // Lossy and packed codings have layouts for a pair at most that every program reads alike.
  const narrow = rule.coding === 'aac' || rule.coding === 'flac'
  const groups: number[][] = []
  if (rule.streams === 'together') groups.push(taken)
  else {
    let first = 0
    for (const n of sound.streams) {
      const mine = taken.filter((c) => c >= first && c < first + n)
      if (mine.length) groups.push(mine)
      first += n
    }
  }
  return groups.flatMap((g) => (narrow && g.length > 2 ? g.map((c) => stream([c])) : [stream(g)]))
}
