/** Long answers, kept as the text that is sent for as long as nothing of their project changes. */
import { LRUCache } from 'lru-cache'
import { type Context, Json } from '../platform/index.ts'
import { awayVolumes } from './service.ts'

/** Some of the largest cuts. */
const kept = new LRUCache<string, Json<unknown>>({ maxSize: 120_000_000, sizeCalculation: ({ text }) => text.length * 2 + 1 })

/** The JSON of an answer about what never changes. */
export async function lastingAnswer<T>(what: string, make: () => Promise<T>): Promise<Json<T>> {
  const old = kept.get(what)
  if (old !== undefined) return old as Json<T>
  const answer = new Json<T>(JSON.stringify(await make()))
  kept.set(what, answer)
  return answer
}

/** The JSON of an answer about a project, made anew when the project or what is here has changed. `make` gives what the contract says. */
export const keptAnswer = <T>(ctx: Context, projectId: string, what: string, make: () => Promise<T>): Promise<Json<T>> =>
  keptAnswerText(ctx, projectId, what, async () => new Json<T>(JSON.stringify(await make())))

/** What an answer about a project hangs on: the version of its data, and what is away. */
export async function stateOf(ctx: Context, projectId: string): Promise<string> {
  const [version, away] = await Promise.all([ctx.version(projectId), awayVolumes(ctx)])
  return `${version} ${[...away.keys()].join()}`
}

/** The same of one that is made as text. It is kept only if nothing has changed while it was made: a drive may go and come back between two looks. */
export async function keptAnswerText<T>(ctx: Context, projectId: string, what: string, make: () => Promise<Json<T>>): Promise<Json<T>> {
  const state = await stateOf(ctx, projectId)
  const key = `${what} ${state}`
  const old = kept.get(key)
  if (old !== undefined) return old as Json<T>
  const answer = await make()
  if ((await stateOf(ctx, projectId)) === state) kept.set(key, answer)
  return answer
}
