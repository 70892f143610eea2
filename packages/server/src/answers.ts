/** Long answers, kept as the text that is sent for as long as nothing of their project changes. */
import { LRUCache } from 'lru-cache'
import type { Context } from './context.ts'
import { awayVolumes } from './volumes/service.ts'

/** Some of the largest cuts. */
const kept = new LRUCache<string, string>({ maxSize: 120_000_000, sizeCalculation: (text) => text.length * 2 + 1 })

/** The JSON of an answer about a project, made anew when the project or what is here has changed. `make` gives what the contract says. */
export async function keptAnswer<T>(ctx: Context, projectId: string, what: string, make: () => Promise<T>): Promise<string> {
  const [version, away] = await Promise.all([ctx.version(projectId), awayVolumes(ctx)])
  const key = `${what} ${version} ${[...away.keys()].join()}`
  const old = kept.get(key)
  if (old !== undefined) return old
  const text = JSON.stringify(await make())
  kept.set(key, text)
  return text
}
