/** How places on volumes are called: by hashes in tables, by references in addresses. */
import { createHash } from 'node:crypto'

export const hashOf = (b: Uint8Array | string): string => createHash('sha1').update(b).digest('hex')

/** By what a file is found again: its volume, and its path there. */
export const placeHash = (volumeId: string, path: Uint8Array): string => hashOf(Buffer.concat([Buffer.from(`${volumeId}\0`), path]))

export const refOf = (path: Uint8Array): string => Buffer.from(path).toString('base64url')

export const fromRef = (ref: string): Buffer => Buffer.from(ref, 'base64url')

/** A folder as people type it, without what says nothing: doubled and outer slashes, dots. */
export const tidyFolder = (folder: string): string =>
  folder
    .split('/')
    .filter((s) => s !== '' && s !== '.')
    .join('/')
