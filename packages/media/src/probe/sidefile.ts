/** The small file beside a copy that says what its wrapper cannot, and which frame of it is which of the original's. */
import { readFile } from 'node:fs/promises'
import { dirname } from 'node:path'
import { readStamp } from '@naranja/core/clip'
import { type Description, type Promised, wrapperOf } from '@naranja/core/specs'
import { type FrameMap, formatFrames, rateFraction } from '@naranja/core/time'
import { z } from 'zod'
import { writeWhole } from '../disk/index.ts'

/** What a copy carries of its original. */
export interface Carried {
  /** Frames from midnight of the copy's first frame, at the copy's rate; null without timecode. */
  readonly start: number | null
  readonly drop: boolean
  readonly reel: string | null
  readonly stamp: string
  /** Scene, take and the like, of those that the clip has. */
  readonly described: Readonly<Partial<Record<Description, string>>>
}

/** A copy that has been made, as far as the file beside it tells of it. */
type FinishedCopy = Pick<Promised, 'spec' | 'map' | 'rate' | 'frames'> & { readonly carried: Carried; readonly target: string }

const RateText = z.string().regex(/^\d+\/\d+$/)
/** The format, as docs/specs.md has it. */
export const SideFile = z.object({
  format: z.literal('edit copy 1'),
  name: z.string(),
  timecode: z.string().nullable(),
  reel: z.string().nullable(),
  stamp: z.string(),
  /** Scene, take and the like, where the wrapper carries none of them. */
  described: z.record(z.string(), z.string()).optional(),
  spec: z.object({ name: z.string(), version: z.int() }),
  frames: z.int(),
  rate: RateText,
  /** Frame n of the copy is the original's frame first + floor(n × original / copy); null where they are the same. */
  frameMap: z.object({ original: RateText, copy: RateText, first: z.int() }).nullable(),
})
export type SideFile = z.infer<typeof SideFile>

/** Where it stands: beside the file, or beside the folder of numbered pictures. */
export const sideFilePath = (picture: string, numbered: boolean): string => `${numbered ? dirname(picture) : picture}.copy.json`

const mapText = (m: FrameMap) => ({ original: rateFraction(m.original), copy: rateFraction(m.copy), first: m.first })

/** Writes it where a copy has something to say that its wrapper cannot. */
export async function writeSideFile(o: FinishedCopy, name: string): Promise<void> {
  const { carries, describedAs } = wrapperOf(o.spec.wrapper)
  const { carried } = o
  if (o.map === null && carries.stamp && (carries.reel || carried.reel === null) && (carries.timecode || carried.start === null)) return
  const file: SideFile = {
    format: 'edit copy 1',
    name,
    timecode: carried.start === null ? null : formatFrames(carried.start, o.rate, carried.drop),
    reel: carried.reel,
    stamp: carried.stamp,
    ...(describedAs || Object.keys(carried.described).length === 0 ? {} : { described: carried.described }),
    spec: { name: o.spec.name, version: o.spec.version },
    frames: o.frames,
    rate: rateFraction(o.rate),
    frameMap: o.map && mapText(o.map),
  }
  await writeWhole(sideFilePath(o.target, o.spec.wrapper === 'frames'), `${JSON.stringify(file, null, 2)}\n`)
}

/** The original's content id that a copy's side file names; null where there is none, or it is something else. */
export async function stampBeside(picture: string, numbered: boolean): Promise<string | null> {
  const text = await readFile(sideFilePath(picture, numbered), 'utf8').catch(() => null)
  if (text === null) return null
  try {
    return readStamp(SideFile.parse(JSON.parse(text)).stamp)
  } catch {
    return null
  }
}
