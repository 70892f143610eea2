/** Hash lists and their history: what was copied or looked at, when, and the digest that every file then had. */

/** Digests that lists carry. Those of ASC MHL 2.0 but for `sha256` and `xxh32`, which only plain and older lists have. */
export type HashFormat = 'c4' | 'md5' | 'sha1' | 'sha256' | 'xxh32' | 'xxh64' | 'xxh3' | 'xxh128'

/** What was done when a digest was taken: the first one known, compared and equal, compared and different (ASC MHL 2.0). */
export type HashAction = 'original' | 'verified' | 'failed'

export interface Digest {
  readonly format: HashFormat
  /** Lower-case hexadecimal; a C4 ID as it is written. */
  readonly value: string
  readonly action: HashAction | null
  /** ISO 8601, or null where the list does not say. */
  readonly date: string | null
}

export interface ListedFile {
  /** Relative to the folder the list is about, parts joined by `/`. */
  readonly path: string
  /** Bytes; null where the list does not say. */
  readonly size: number | null
  /** ISO 8601; null where the list does not say. */
  readonly modified: string | null
  readonly digests: readonly Digest[]
}

/** How files came to where the list stands: looked at where they are, copied with their folders, copied into one folder. */
export type HashProcess = 'in-place' | 'transfer' | 'flatten'

/** One list: a generation of an ASC MHL history, or another list read as if it were one. */
export interface HashList {
  /** ISO 8601. */
  readonly created: string
  readonly host: string
  readonly tool: { readonly name: string; readonly version: string }
  readonly process: HashProcess
  /** Names and patterns left out. */
  readonly ignored: readonly string[]
  readonly files: readonly ListedFile[]
  /** Folders below, so that empty ones are known too. */
  readonly folders: readonly string[]
}

/** What a reader could not make sense of. `line` counts from 1; null where the format has no lines to speak of. */
export interface ListProblem {
  readonly code: 'not-xml' | 'not-a-hash-list' | 'no-path' | 'no-digest' | 'bad-line'
  readonly line: number | null
  readonly text: string
}
export interface ReadList<T> {
  readonly value: T
  readonly problems: readonly ListProblem[]
}
