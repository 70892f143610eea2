/** Documents: what a column keeps as JSON, each of a shape that is written down here and has a version. */
import type { EntitySchemaColumnOptions } from 'typeorm'
import type { z } from 'zod'

/** What is kept does not have the shape that this version knows. */
export class DocumentError extends Error {}

export interface Document<T = unknown> {
  /** Table and column; of settings and tasks also which. */
  readonly name: string
  /** Grows by one with every change of the shape; for each there is a step in `database/steps.ts` that leads from the one before. */
  readonly version: number
  readonly shape: z.ZodType<T>
  /** Throws a DocumentError. */
  read(text: string): T
  of(value: unknown): T
}

/** Every document there is, by name. */
export const documents = new Map<string, Document>()

type MayBeAbsent<T, K extends keyof T> = Partial<Pick<T, K>> extends Pick<T, K> ? true : false
/** A type as it is kept: whether a list may be changed makes no difference, nor whether what may be absent may also be undefined. */
type StoredShape<T> = T extends readonly (infer U)[]
  ? StoredShape<U>[]
  : T extends object
    ? { -readonly [K in keyof T as MayBeAbsent<T, K> extends true ? never : K]: StoredShape<T[K]> } & {
        -readonly [K in keyof T as MayBeAbsent<T, K> extends true ? K : never]?: StoredShape<Exclude<T[K], undefined>>
      }
    : T
type Fits<A, B> = [A] extends [B] ? ([B] extends [A] ? unknown : 'the shape leaves out what its type has') : 'the shape has what its type has not'

/**
 * A document of type `T`, which is named; its shape must be that of the type, and does not compile otherwise. Whoever changes either raises the version
 * and writes the step that leads there.
 */
export const documentOf =
  <T>() =>
  <S extends z.ZodType>(name: string, version: number, shape: S & Fits<StoredShape<z.output<S>>, StoredShape<T>>): Document<T> => {
    const of = (value: unknown): T => {
      const read = (shape as z.ZodType).safeParse(value)
      if (read.success) return read.data as T
      const [first] = read.error.issues
      throw new DocumentError(
        `What is kept as ${name} has another shape than this version of Naranja knows (${[...(first?.path ?? [])].join('.')}: ${first?.message}). Nothing was changed. Was a save restored by hand, or the database written to?`,
      )
    }
    const document: Document<T> = { name, version, shape: shape as unknown as z.ZodType<T>, of, read: (text) => of(JSON.parse(text)) }
    if (documents.has(name)) throw new Error(`There are two documents called ${name}.`)
    documents.set(name, document)
    return document
  }

/** A document as a column keeps it; null where it keeps none. */
export const readKept = <T>(document: Document<T>, text: string | null): T | null => (text === null || text === 'null' ? null : document.read(text))

/** The column that keeps a document; of one that may be missing it is null. */
export const kept = <T>(document: Document<T>): EntitySchemaColumnOptions => ({
  type: 'longtext',
  transformer: {
    to: (v: unknown) => JSON.stringify(v ?? null),
    from: (text: string | null) => readKept(document, text),
  },
})
