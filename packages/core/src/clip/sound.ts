/** Where a clip's sound lies: in streams of the file itself, or in files of its own. */
import { isCounter, withoutSeparator } from '../naming/index.ts'
import { seconds } from '../time/index.ts'
import type { Technical } from './model.ts'

export interface SoundLayout {
  /** Channels of each sound stream, in order; one that cannot be decoded has 0. */
  readonly streams: readonly number[]
  /** Files that hold it, from the clip's folder, one stream each; empty where the clip's own file does. */
  readonly files: readonly string[]
}

/** Where a clip's sound lies; null where it has none. */
export const soundLayout = (t: Pick<Technical, 'sound' | 'channelFiles'>): SoundLayout | null =>
  t.sound && { streams: t.sound.streams ?? (t.channelFiles.length ? t.channelFiles.map(() => 1) : [t.sound.channels]), files: t.channelFiles }

/** The stream that holds a channel, and the channel within that stream; all count from 0. Null where there is no such channel. */
export function channelAt(streams: readonly number[], channel: number): { stream: number; channel: number } | null {
  let left = channel
  for (const [stream, n] of streams.entries()) {
    if (left < n) return { stream, channel: left }
    left -= n
  }
  return null
}

/** A name's stem without what says that a file holds one picture or one channel: `A1_v1` → `A1`, `A1_a02` → `A1`. */
const bareOf = (name: string): string =>
  name
    .replace(/\.[^.]*$/, '')
    .replace(/[_\-. ]*(?:v|a|ch|tr|trk|track)?\d{1,2}$/i, '')
    .toLowerCase()
const stemOf = (name: string): string => name.replace(/\.[^.]*$/, '').toLowerCase()

/** A file, or a sequence by what stands before its numbers. */
export interface NamedFile {
  readonly folder: string
  readonly name: string
  readonly kind: 'movie' | 'sequence' | 'sound'
}

const soundFolder = /^(audio|sound|snd|wav|a)$/i
const leaf = (folder: string): string => folder.slice(folder.lastIndexOf('/') + 1)
const above = (folder: string): string => (folder.includes('/') ? folder.slice(0, folder.lastIndexOf('/')) : '')

/** Whether sound may lie in `s` for a picture in `p`: in one folder, in a folder for sound below it, or in one beside it. */
const within = (p: string, s: string): boolean =>
  p === s || (soundFolder.test(leaf(s)) && (above(s) === p || (p !== '' && above(s) === above(p) && /^(video|picture|vid|image|images|v)$/i.test(leaf(p)))))

/** Whether they lie in two folders beside one another. */
const besides = (p: string, s: string): boolean => p !== s && above(p) === above(s) && p !== '' && s !== ''

/**
 * Which files may hold the sound of which picture, by names and folders alone: a sound file that is called like the picture, or
 * like it with a channel's number behind; and the same of movie files in a folder for sound, or marked as picture (`_v1`) and sound (`_a1`) in one
 * folder. What lies with the picture comes first; a picture without may have a sound file in any folder beside its own. Each picture's in the order
 * of their names; a sound that two pictures could have belongs to none.
 */
export function soundByName<T extends NamedFile>(files: readonly T[]): Map<T, T[]> {
  const byBare = new Map<string, T[]>()
  const isSound = (f: T): boolean => f.kind === 'sound' || (f.kind === 'movie' && (soundFolder.test(leaf(f.folder)) || /[_\-. ]a\d{1,2}\.[^.]+$/i.test(f.name)))
  const stems = (f: T): string[] => [...new Set([stemOf(f.name), bareOf(f.name)])]
  for (const f of files) if (isSound(f)) for (const s of stems(f)) byBare.set(s, [...(byBare.get(s) ?? []), f])
  const out = new Map<T, T[]>()
  const taken = new Set<T>()
  const search = (near: (picture: T, sound: T) => boolean): void => {
    const wanted = new Map<T, T[]>()
    const owners = new Map<T, number>()
    for (const p of files) {
      if (p.kind === 'sound' || isSound(p) || out.has(p)) continue
      const own = p.kind === 'sequence' ? withoutSeparator(p.name.toLowerCase()) : /[_\-. ]v\d{1,2}\.[^.]+$/i.test(p.name) ? bareOf(p.name) : stemOf(p.name)
      const sounds = (byBare.get(own) ?? []).filter((s) => !taken.has(s) && near(p, s)).sort((a, b) => a.name.localeCompare(b.name, 'en', { numeric: true }))
      if (sounds.length === 0) continue
      wanted.set(p, sounds)
      for (const s of sounds) owners.set(s, (owners.get(s) ?? 0) + 1)
    }
    for (const s of owners.keys()) taken.add(s)
    for (const [p, sounds] of wanted) {
      const own = sounds.filter((s) => owners.get(s) === 1)
      if (own.length > 0) out.set(p, own)
    }
  }
  search((p, s) => within(p.folder, s.folder))
  // Names that any card has again prove nothing over folders.
  search((p, s) => s.kind === 'sound' && !isCounter(p.name) && besides(p.folder, s.folder))
  return out
}

/**
 * Whether sound files are those of a picture, by what they hold: the picture has no sound, they have one stream each and no
 * picture, begin with it to the frame (where both say when; zeros, which many a file has, say nothing) and are as long to within a second.
 */
export function isItsSound(picture: Technical, sounds: readonly Technical[]): boolean {
  if (picture.fault || !picture.hasPicture || picture.sound || sounds.length === 0) return false
  const begin = picture.start === null ? null : seconds(picture.start, picture.rate)
  return sounds.every((s) => {
    if (s.fault || s.hasPicture || !s.sound || (s.sound.streams ?? [1]).length !== 1 || s.sound.sampleRate !== sounds[0]?.sound?.sampleRate) return false
    const starts = s.start ? seconds(s.start, s.rate) : null
    if (begin !== null && starts !== null && Math.abs(begin - starts) > 1.01 * seconds(1, picture.rate)) return false
    return Math.abs(seconds(s.frames, s.rate) - seconds(picture.frames, picture.rate)) <= 1
  })
}

/** The facts of a picture with the sound that lies in files of its own. `names` from the picture's folder; sizes in bytes. */
export function withSound(picture: Technical, sounds: readonly Technical[], names: readonly string[], soundBytes: number): Technical {
  const first = sounds[0]?.sound
  if (!first) return picture
  const streams = sounds.map((s) => s.sound?.channels ?? 0)
  const told = sounds.find((s) => s.start)
  return {
    ...picture,
    // A picture that says no timecode begins with its sound, at the frame nearest to it.
    start: picture.start ?? (told ? Math.round((seconds(told.start as number, told.rate) * picture.rate.num) / picture.rate.den) : null),
    sound: { ...first, channels: streams.reduce((n, c) => n + c, 0), streams },
    channelFiles: [...names],
    dataRate: picture.dataRate + Math.round((soundBytes * 8) / Math.max(seconds(picture.frames, picture.rate), 0.001)),
  }
}
