/** What answers requests: for every route of the contract a handler, in the room whose business it is. */
import type { Readable } from 'node:stream'
import type { ParamsOf, Route, RouteName, routes, Schema } from '@naranja/contract'
import type { Context } from './context.ts'

type ParsedPart<R, K extends string> = R extends Record<K, infer S extends Schema> ? S['_zod']['output'] : undefined

/** A request that fits the contract. */
export interface ParsedRequest<R extends Route> {
  readonly params: ParamsOf<R>
  readonly query: ParsedPart<R, 'query'>
  readonly body: ParsedPart<R, 'body'>
  /** Whether the command on this machine asks, which may read the configuration. */
  readonly trusted: boolean
  /** Ends when whoever asked has gone without the answer. */
  readonly gone: AbortSignal
}

/** Texts are numbered as they are made, so that what was answered can be known again without being kept. */
let made = 0

/** An answer, or a part of one, that is JSON text already, and of what type. */
export class Json<T> {
  declare readonly of: T
  readonly id = ++made
  private written: string | null = null
  private constructor(
    private readonly write: () => string,
    /** Of a list its rows. */
    readonly rows: readonly Json<unknown>[] | null = null,
    /** Of an object its fields, those that are lists with their rows. */
    readonly fields: Readonly<Record<string, Json<unknown>>> | null = null,
  ) {}

  get text(): string {
    this.written ??= this.write()
    return this.written
  }
  /** About how long its text is: not one of thousands of rows is put together for that. */
  get length(): number {
    const parts = this.rows ?? (this.fields ? Object.values(this.fields) : null)
    return parts ? parts.reduce((n, p) => n + p.length + 1, 2) : this.text.length
  }
  static of<T>(value: T): Json<T> {
    const text = JSON.stringify(value)
    return new Json(() => text)
  }
  /** A list of rows that are text already. */
  static list<R>(rows: readonly Json<R>[]): Json<R[]> {
    return new Json(() => `[${rows.map((r) => r.text).join(',')}]`, rows)
  }
  /** An object of which some fields are text already. */
  static object<T extends object>(fields: { readonly [K in keyof T]: T[K] | Json<T[K]> }): Json<T> {
    const texts: Record<string, Json<unknown>> = {}
    for (const [name, value] of Object.entries(fields)) if (value !== undefined) texts[name] = value instanceof Json ? value : Json.of(value)
    const write = () =>
      `{${Object.entries(texts)
        .map(([name, value]) => `${JSON.stringify(name)}:${value.text}`)
        .join(',')}}`
    return new Json<T>(write, null, texts)
  }
}

/** A list that is made while it is sent, piece by piece, so that a hundred thousand rows are never in memory at once. */
export class Pieces<R> {
  constructor(readonly pieces: AsyncIterable<readonly R[]>) {}
}

/** An answer that is no JSON: a picture, a text, a stream. Its media type is the route's. */
export class Content {
  constructor(
    readonly bytes: Buffer | string | Readable,
    readonly headers: Readonly<Record<string, string>> = {},
    /** Ends what makes a stream, when nobody takes it any more. */
    readonly stop?: () => void,
  ) {}
}

/** Headers by which a browser saves what comes as a file of this name. */
export const savedAs = (name: string): Record<string, string> => ({ 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` })
/** Headers by which a browser keeps what comes for some seconds. */
export const keptFor = (seconds: number): Record<string, string> => ({ 'cache-control': `private, max-age=${seconds}` })

type Ok = { readonly ok: true }
type Piecewise<T> = T extends readonly (infer R)[] ? Pieces<R> : never
/** What a handler gives; nothing where all there is to say is that it was done. */
type Answered<R extends Route> = R extends { type: string }
  ? Content
  : R extends { answer: infer S extends Schema }
    ? // biome-ignore lint/suspicious/noConfusingVoidType: a handler that has nothing to say gives nothing
      S['_zod']['input'] | Json<S['_zod']['input']> | Piecewise<S['_zod']['input']> | (S['_zod']['output'] extends Ok ? void : never)
    : never

export type Handler<R extends Route> = (ctx: Context, asked: ParsedRequest<R>) => Answered<R> | Promise<Answered<R>>
/** A handler for every route: one that is missing does not compile. */
export type Handlers = { readonly [N in RouteName]: Handler<(typeof routes)[N]> }
