/** Files by track of one copy: made to name one material package, and read back as one clip. */
import { open } from 'node:fs/promises'
import { atomHeadSize, readAtom, uniteAtoms } from '@naranja/core/headers'
import { type Rate, rateText } from '@naranja/core/time'
import type { CopyFiles, CopyOutput } from './model.ts'
import { copyStem } from './parts.ts'

/** What each of a copy's tracks is called: its picture, then its sound, by the recorder's names where they are known. */
const trackNames = (o: CopyOutput): string[] => ['V1', ...o.sound.map((s, i) => s.name ?? `A${i + 1}`)]

/** The header of a file as it stands on the disk. */
async function headOf(path: string): Promise<Uint8Array> {
  const file = await open(path, 'r')
  try {
    const beginning = Buffer.alloc(65_536)
    const { bytesRead } = await file.read(beginning, 0, beginning.length, 0)
    const size = atomHeadSize(beginning.subarray(0, bytesRead)) ?? bytesRead
    const head = Buffer.alloc(size)
    await file.read(head, 0, size, 0)
    return head
  } finally {
    await file.close()
  }
}

/** Writes one clip's name, identifier and tracks into the headers of all its files; nothing else in them is touched. */
export async function uniteFiles(o: CopyOutput, files: CopyFiles): Promise<void> {
  const paths = [files.picture, ...files.sound]
  const united = uniteAtoms(await Promise.all(paths.map(headOf)), copyStem(o), trackNames(o))
  // What could not be made one clip fails its check.
  for (const [i, head] of (united ?? []).entries()) {
    const file = await open(paths[i] as string, 'r+')
    try {
      await file.write(head, 0, head.length, 0)
      await file.sync()
    } finally {
      await file.close()
    }
  }
}

/** What keeps the files of a copy from being one clip, each a sentence. */
export async function atomFaults(o: CopyOutput, files: CopyFiles): Promise<string[]> {
  const atoms = (await Promise.all([files.picture, ...files.sound].map(headOf))).map(readAtom)
  const [first] = atoms
  if (!first) return ['Its picture file does not say which clip it belongs to.']
  const names = trackNames(o)
  /** The copy's length in edit units of a track: frames of the picture, samples of sound. */
  const units = (r: Rate): number => Math.round((o.frames * o.rate.den * r.num) / (o.rate.num * r.den))
  return atoms.flatMap((a, i): string[] => {
    const which = i === 0 ? 'picture' : `sound file ${i}`
    if (!a) return [`Its ${which} does not say which clip it belongs to.`]
    const essence = a.tracks.filter((t) => t.kind !== 'timecode')
    const own = essence[i]
    return [
      ...(a.material === first.material ? [] : [`Its ${which} belongs to another clip than its picture: their package identifiers differ.`]),
      ...(a.name === copyStem(o) ? [] : [`Its ${which} names the clip ${a.name ?? 'not at all'}, not ${copyStem(o)}.`]),
      ...(essence.map((t) => t.name).join() === names.join()
        ? []
        : [`Its ${which} names the tracks ${essence.map((t) => t.name ?? '?').join(', ')}, not ${names.join(', ')}.`]),
      ...(own?.file === a.file && essence.every((t, k) => t.file === atoms[k]?.file) ? [] : [`Its ${which} does not lead to the other files of the clip.`]),
      ...(own && own.length !== units(own.rate)
        ? [`Its ${which} says that it is ${own.length ?? '?'} units long at ${rateText(own.rate)} a second, not ${units(own.rate)}.`]
        : []),
    ]
  })
}
