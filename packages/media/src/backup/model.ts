/** What a backup is asked, and what came of it. */
import type { ReadFrom } from '../bytes/index.ts'

export interface FileOutcome {
  /** Relative to the card. */
  readonly path: Buffer
  readonly size: number
  /** Digest as it was read from the card; null where it could not be read. */
  readonly digest: string | null
  /** By place, in their order: null where it is verified there, else why not. */
  readonly places: readonly (string | null)[]
  /** What is wrong with the file on the card itself, whatever the places hold. */
  readonly problem: string | null
}
export interface PlaceOutcome {
  /** The card's folder there. */
  readonly folder: string
  readonly verified: number
  /** Bytes verified. */
  readonly bytes: number
  readonly readBack: ReadFrom
}
export interface BackupOutcome {
  readonly card: string
  readonly files: readonly FileOutcome[]
  readonly places: readonly PlaceOutcome[]
  readonly leftOut: readonly { readonly path: string; readonly reason: string }[]
  /** What the card's own lists say, and what could not be looked at; each a sentence, each a reason not to trust the card. */
  readonly problems: readonly string[]
  /** Lists on the card that were compared with. */
  readonly lists: readonly { readonly path: string; readonly files: number }[]
  /** Remarks that change nothing about what is verified. */
  readonly remarks: readonly string[]
  /** Whether every file of the card is verified in every place, and no list of the card speaks against it. */
  readonly complete: boolean
}
export interface BackupOptions {
  /** The folder's name in each place; by default the card's own. */
  readonly name?: Buffer
  readonly signal?: AbortSignal
  /** Bytes read, and read back, of all there will be. */
  readonly onProgress?: (done: number, total: number) => void
  /** Told before a file is read, and before it is read back; waited for. */
  readonly onStep?: (path: Buffer, step: 'read' | 'read back') => void | Promise<void>
}
