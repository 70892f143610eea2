/** Long answers, kept as the text that is sent for as long as nothing of their project changes. */
import { LRUCache } from 'lru-cache'
import type { Context } from '../platform/index.ts'
import { awayVolumes } from './service.ts'

/** Some of the largest cuts. */
const kept = new LRUCache<string, string>({ maxSize: 120_000_000, sizeCalculation: (text) => text.length * 2 + 1 })

/** The JSON of an answer about what never changes. */
export async function lastingAnswer<T>(what: string, make: () => Promise<T>): Promise<string> {
  const old = kept.get(what)
  if (old !== undefined) return old
  const text = JSON.stringify(await make())
  kept.set(what, text)
  return text
}

/** The JSON of an answer about a project, made anew when the project or what is here has changed. `make` gives what the contract says. */
export const keptAnswer = <T>(ctx: Context, projectId: string, what: string, make: () => Promise<T>): Promise<string> =>
  keptAnswerText(ctx, projectId, what, async () => JSON.stringify(await make()))

/** What an answer about a project hangs on: the version of its data, and what is away. */
export async function stateOf(ctx: Context, projectId: string): Promise<string> {
  const [version, away] = await Promise.all([ctx.version(projectId), awayVolumes(ctx)])
  return `${version} ${[...away.keys()].join()}`
}

/** The same of one that is made as text. It is kept only if nothing has changed while it was made: a drive may go and come back between two looks. */
export async function keptAnswerText(ctx: Context, projectId: string, what: string, make: () => Promise<string>): Promise<string> {
  const state = await stateOf(ctx, projectId)
  const key = `${what} ${state}`
  const old = kept.get(key)
  if (old !== undefined) return old
  const text = await make()
  if ((await stateOf(ctx, projectId)) === state) kept.set(key, text)
  return text
}
