/** Media files below a folder by their names, for whoever points at a folder. */
import { posix } from 'node:path'
import { type Sequence, sequenceAliases, sequenceName, type Technical } from '@naranja/core/clip'
import { withoutSeparator } from '@naranja/core/naming'
import { fileNames, type NamedFile } from '@naranja/core/reconnect'
import { type Rate, rateText } from '@naranja/core/time'
import { joinBytes, lastName, parentOf, pathText, probe, walk } from '@naranja/media'
import { Derived } from '../platform/index.ts'

export interface MediaFile extends NamedFile {
  /** Of the file, or the first of a sequence. */
  readonly path: Buffer
  readonly sequence: Sequence | null
}
export type MediaFiles = ReturnType<typeof fileNames<MediaFile>>

/** By folder, looked at anew after a while; by path. */
const listed = new Derived<Promise<MediaFiles>>({ things: 8, lasts: 30_000 })
const probed = new Derived<Promise<Technical>>({ things: 5000, lasts: 60_000 })

/** Every media file below a folder, and every sequence of numbered pictures; these go by the name of their folder too, as programs write them. */
export const filesBelow = (folder: Buffer): Promise<MediaFiles> =>
  listed.of(folder.toString('latin1'), '', async () => {
    const { found } = await walk(folder)
    return fileNames(
      found.map((f): MediaFile => {
        const [path, above, sequence] = [joinBytes(folder, f.path), pathText(parentOf(f.path)), f.sequence]
        if (!sequence) return { name: pathText(lastName(f.path)), folder: above, path, sequence }
        // As lists name them: by what stands before the numbers, or by their folder.
        const [first = '', ...others] = sequenceAliases(sequence)
        const called = [withoutSeparator(sequence.base), posix.basename(above), sequenceName(sequence), ...others].filter((n) => n !== '')
        return { name: called[0] ?? '', aliases: [first, ...called], folder: above, path, sequence }
      }),
    )
  })

/** What a file says of itself; a sequence of pictures, which says none, has the rate given. */
export const technicalOf = (file: MediaFile, projectRate: Rate): Promise<Technical> =>
  probed.of(`${file.sequence ? rateText(projectRate) : ''} ${file.path.toString('latin1')}`, '', () =>
    probe(file.path, { projectRate, sequence: file.sequence }),
  )
