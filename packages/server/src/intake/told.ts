/** What the files of a clip say of it, and those beside it. */
import { capturedInText, type Described } from '@naranja/core/clip'
import type { Field } from '@naranja/core/describe'
import { readSideFile, type SideFileFacts } from '@naranja/xml'
import { decodeText } from '@naranja/core/text'
import type { Rate } from '@naranja/core/time'
import { type FoundClip, joinBytes, lastName, pathText, readStart, type WaveNotes } from '@naranja/media'

/** What a recorder wrote down in the files of one recording. */
export function recorded(files: readonly (WaveNotes | null)[]): Described {
  const n = files.find((w) => w?.notes)?.notes
  if (!n) return {}
  const from = 'file' as const
  // A file for each channel names its own, or all of them.
  const tracks = n.tracks.length >= files.length ? n.tracks : files.flatMap((w) => (w?.notes?.tracks.length ? w.notes.tracks : [null]))
  return {
    ...(n.scene ? { scene: { value: n.scene, from } } : {}),
    ...(n.take ? { take: { value: n.take, from } } : {}),
    ...(n.note ? { notes: { value: n.note, from } } : {}),
    ...(n.circled ? { circled: { value: true, from } } : {}),
    ...(tracks.some((t) => t !== null) ? { tracks: { value: tracks, from } } : {}),
  }
}

/** What the files beside a clip say of it; what the file itself says comes first. */
export async function toldBeside(path: Uint8Array, f: FoundClip): Promise<{ told: SideFileFacts; shot: Rate | null }> {
  const told: SideFileFacts = {}
  let shot: Rate | null = null
  for (const side of f.beside.slice(0, 20)) {
    const name = pathText(lastName(side))
    if (!/\.(xml|xmp|txt|csv|tsv)$/i.test(name)) continue
    const bytes = await readStart(joinBytes(path, side), 1_000_000).catch(() => null)
    const text = bytes ? decodeText(bytes) : ''
    for (const [field, value] of Object.entries(readSideFile(name, text))) told[field as Field] ??= value
    shot ??= capturedInText(text)
  }
  return { told, shot }
}
