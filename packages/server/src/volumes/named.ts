/** Media files below a folder by their names, for whoever points at a folder. */
import type { Technical } from '@naranja/core/clip'
import { fileNames, type NamedFile } from '@naranja/core/reconnect'
import type { Rate } from '@naranja/core/time'
import { joinBytes, lastName, parentOf, pathText, probe, walk } from '@naranja/media'
import { LRUCache } from 'lru-cache'
import { once } from '../once.ts'

export interface MediaFile extends NamedFile {
  readonly path: Buffer
}
export type MediaFiles = ReturnType<typeof fileNames<MediaFile>>

/** By folder, looked at anew after a while; by path. */
const listed = new LRUCache<string, Promise<MediaFiles>>({ max: 8, ttl: 30_000 })
const probed = new LRUCache<string, Promise<Technical>>({ max: 5000, ttl: 60_000 })

/** Every media file below a folder. Numbered sequences are none. */
export const filesBelow = (folder: Buffer): Promise<MediaFiles> =>
  once(listed, folder.toString('latin1'), async () => {
    const { found } = await walk(folder)
    return fileNames(
      found
        .filter((f) => !f.sequence)
        .map((f): MediaFile => ({ name: pathText(lastName(f.path)), folder: pathText(parentOf(f.path)), path: joinBytes(folder, f.path) })),
    )
  })

/** What a file says of itself. */
export const technicalOf = (file: MediaFile, projectRate: Rate): Promise<Technical> =>
  once(probed, file.path.toString('latin1'), () => probe(file.path, { projectRate }))
