/** The files of a copy: where they will stand, and under which names they are written before. */
import { createHash } from 'node:crypto'
import { basename, dirname, join } from 'node:path'
import type { Sequence } from '@naranja/core/clip'
import { codingOf, wrapperOf } from '@naranja/core/specs'
import { partName } from '../disk/index.ts'
import type { CopyOutput } from './model.ts'

export interface Parts {
  /** What FFmpeg writes the picture to; numbered pictures as a pattern. */
  readonly picture: string
  /** A file for each stream of sound, where it stands apart. */
  readonly sound: readonly string[]
  readonly samples: string
  /** Every frame that is coded as a very small picture, where every frame is checked. */
  readonly trace: string
  readonly firstNumber: number
  /** Each thing that is put in its place in the end, from where to where; the picture first. */
  readonly moves: readonly { readonly from: string; readonly to: string }[]
}

const stemOf = (path: string): string => basename(path).replace(/\.[^.]*$/, '')
export const digits = 8

/** The stem of a copy's files. */
export const copyStem = (o: CopyOutput): string => (o.spec.wrapper === 'frames' ? basename(dirname(o.target)) : stemOf(o.target))

/** The number of a sequence's first picture: its timecode as frames from midnight, so that pictures tell where they belong. */
export const firstNumber = (o: Pick<CopyOutput, 'carried'>): number => o.carried.start ?? 0

/** The pictures of a copy that is numbered ones; null for every other. */
export function sequenceOf(o: CopyOutput): Sequence | null {
  if (o.spec.wrapper !== 'frames') return null
  const first = firstNumber(o)
  return { base: `${copyStem(o)}.`, ext: codingOf(o.spec.coding).extension ?? '', digits, first, last: first + o.frames - 1, missing: [] }
}

/** Names of the files of a copy in the folder of its picture, apart from the picture itself. */
export function soundNames(o: CopyOutput): string[] {
  if (!wrapperOf(o.spec.wrapper).apart) return []
  const ending = o.spec.wrapper === 'frames' ? 'wav' : 'mxf'
  return o.sound.map((_, i) => `${copyStem(o)}_A${i + 1}.${ending}`)
}

/** Everything that stands on the disk once a copy is in place: its files, or the folder of its pictures. */
export function partsOf(o: CopyOutput, who: string): Parts {
  const first = firstNumber(o)
  if (o.spec.wrapper === 'frames') {
    const folder = dirname(o.target)
    const part = partName(folder, who)
    const pattern = `${copyStem(o).replace(/%/g, '%%')}.%0${digits}d.${codingOf(o.spec.coding).extension}`
    return {
      picture: join(part.replace(/%/g, '%%'), pattern),
      sound: soundNames(o).map((s) => join(part, s)),
      samples: `${part}.samples`,
      trace: `${part}.trace`,
      firstNumber: first,
      moves: [{ from: part, to: folder }],
    }
  }
  const part = partName(o.target, who)
  const others = soundNames(o).map((s) => join(dirname(o.target), s))
  const sound = others.map((s) => partName(s, who))
  return {
    picture: part,
    sound,
    samples: `${part}.samples`,
    trace: `${part}.trace`,
    firstNumber: first,
    moves: [{ from: part, to: o.target }, ...others.map((to, i) => ({ from: sound[i] as string, to }))],
  }
}

const reach = 2
/** Frames whose neighbourhood is compared: first, middle, last, and three that chance picks, the same for the same `seed`. */
export function checkPoints(n: number, seed: string): number[] {
  const hash = createHash('sha1').update(seed).digest()
  const chance = [0, 4, 8].map((i) => Math.floor((hash.readUInt32BE(i) / 2 ** 32) * n))
  return [...new Set([0, Math.floor(n / 2), n - 1, ...chance])].filter((x) => x >= 0 && x < n).sort((a, b) => a - b)
}
/** The neighbourhood of a frame, as offsets. */
export const near = Array.from({ length: 2 * reach + 1 }, (_, i) => i - reach)
const around = (n: number, seed: string, offsets: readonly number[]): number[] =>
  [...new Set(checkPoints(n, seed).flatMap((p) => offsets.map((d) => p + d)))].filter((x) => x >= 0 && x < n).sort((a, b) => a - b)
/** The frames around the check points that exist, in order. */
export const sampled = (n: number, seed: string): number[] => around(n, seed, near)
/** The check points and the frames just before and after them, in order. */
export const readAgain = (n: number, seed: string): number[] => around(n, seed, [-1, 0, 1])
/** Samples that were taken at `frames`, in that order, by frame; those that did not come are left out. */
export const byFrame = (frames: readonly number[], list: readonly Uint8Array[]): Map<number, Uint8Array> =>
  new Map(frames.flatMap((f, i) => (list[i] ? [[f, list[i]] as const] : [])))
