/** What a route is: how a request is sent, what it takes, what it answers, and what on a page follows from it. */
import { Topic } from '../schemas/index.ts'

/** What answers follow from: what the server tells of, and what only a page asks for anew. */
export const tags = [...Topic.options, 'changes', 'working'] as const
export type Tag = (typeof tags)[number]

/** A schema, by what goes in and what comes out: all that types of routes ask of one. Whole schemas take long to compare. */
export interface Schema {
  readonly _zod: { readonly input: unknown; readonly output: unknown }
}
/** The same of an object with fields. */
export interface Fields extends Schema {
  readonly shape: object
}

export interface Route {
  readonly method: 'GET' | 'POST' | 'PUT' | 'PATCH' | 'DELETE'
  /** Below `/api`. Parts that begin with a colon are parameters; those whose names end in `Id` are ids. */
  readonly path: string
  /** Parameters of the path that are no ids. */
  readonly params?: Fields
  readonly query?: Fields
  readonly body?: Schema
  /** What is answered as JSON. */
  readonly answer?: Schema
  /** The media type of an answer that is no JSON, or a file of its own. */
  readonly type?: string
  /** It begins work: refused, before anything is written down for it, where there is no room on the application's own disk. */
  readonly begins?: true
  /** It changes nothing, though it is sent with a body. */
  readonly asks?: true
  /** Bytes that a body may have, where that is more than usual. */
  readonly bodyLimit?: number
  /** The topics that its answer follows from. */
  readonly follows?: readonly Tag[]
  /** The topics that it changes. */
  readonly moves?: readonly Tag[]
  /** It reaches the server after what was done before it on the same page, and not beside it. */
  readonly inOrder?: true
  /** It is long, and told by the rows that have changed to whoever has what it was before. */
  readonly byRows?: true
  /** Seconds for which a page keeps an answer that nobody shows. */
  readonly keep?: number
  /** For the command on this machine: left out of the description of the API. */
  readonly hidden?: true
}

type Names<P extends string> = P extends `${string}:${infer N}/${infer Rest}` ? N | Names<`/${Rest}`> : P extends `${string}:${infer N}` ? N : never
type Params<R extends Route> = {
  [N in Names<R['path']>]: R extends { params: infer S extends Schema } ? (N extends keyof S['_zod']['input'] ? S['_zod']['input'][N] : string) : string
}
/** The parameters of a path, read. */
export type ParamsOf<R extends Route> = {
  [N in Names<R['path']>]: R extends { params: infer S extends Schema } ? (N extends keyof S['_zod']['output'] ? S['_zod']['output'][N] : string) : string
}
type In<R, K extends string> = R extends Record<K, infer S extends Schema> ? S['_zod']['input'] : unknown

type Several<T, All = T> = T extends unknown ? ([All] extends [T] ? false : true) : never

/** All that a request takes: parameters of its path, its query and its body, side by side. */
export type Input<R extends Route> = object & Params<R> & In<R, 'query'> & In<R, 'body'>
/** The same as it is handed over: nothing where it takes nothing, and one parameter of a path alone by itself. */
export type Arg<R extends Route> = R extends { query: Schema } | { body: Schema }
  ? Input<R>
  : [Names<R['path']>] extends [never]
    ? // biome-ignore lint/suspicious/noConfusingVoidType: what takes nothing is called with nothing
      void
    : Several<Names<R['path']>> extends true
      ? Input<R>
      : string
/** What comes back as JSON; text where it is something else. */
export type Answer<R extends Route> = R extends { answer: infer S extends Schema } ? S['_zod']['output'] : string

/** The names of the parameters of a path. */
export const paramNames = (path: string): string[] => [...path.matchAll(/:(\w+)/g)].map((m) => m[1] as string)

/** What is to be sent: the address below the server's own, and the body where there is one. */
export function requestOf<R extends Route>(
  route: R,
  arg: Arg<R>,
): { readonly method: Route['method']; readonly url: string; readonly body: Record<string, unknown> | undefined } {
  const names = paramNames(route.path)
  const given = (typeof arg === 'string' ? { [names[0] as string]: arg } : (arg ?? {})) as Record<string, unknown>
  const query: string[] = []
  const body: Record<string, unknown> = {}
  const asked = route.query?.shape ?? {}
  for (const [key, value] of Object.entries(given)) {
    if (names.includes(key) || value === undefined) continue
    if (key in asked) query.push(`${key}=${encodeURIComponent(typeof value === 'object' && value !== null ? JSON.stringify(value) : String(value))}`)
    else body[key] = value
  }
  const path = route.path.replace(/:(\w+)/g, (_, name: string) => encodeURIComponent(String(given[name])))
  return { method: route.method, url: `/api${path}${query.length ? `?${query.join('&')}` : ''}`, body: route.body ? body : undefined }
}

/** The address of what is got by a route: a picture's, or a file's. */
export const addressOf = <R extends Route & { method: 'GET' }>(route: R, arg: Arg<R>): string => requestOf(route, arg).url
/** The beginning of such an address, to which the rest of its query is added. */
export const addressSoFar = <R extends Route & { method: 'GET' }>(route: R, some: Partial<Input<R>>): string => requestOf(route, some as Arg<R>).url
