/** Long answers, kept as the text that is sent for as long as nothing of their project changes. */
import type { Topic } from '@naranja/contract'
import { type Context, Derived, Json, steadily } from '../platform/index.ts'
import { placesVersion } from './service.ts'

/** Some of the largest cuts. */
const kept = new Derived<Promise<Json<unknown>>>({ bytes: { most: 120_000_000, of: ({ length }) => length * 2 + 1 } })

/** The JSON of an answer about what never changes. */
export const lastingAnswer = <T>(what: string, make: () => Promise<T>): Promise<Json<T>> =>
  kept.of(what, '', async () => Json.of(await make())) as Promise<Json<T>>

/** What an answer about a project hangs on: its data, or these topics of it, and where volumes stand. */
export const stateOf = async (ctx: Context, projectId: string, topics?: readonly Topic[]): Promise<string> =>
  (await Promise.all([ctx.version(projectId, topics), placesVersion(ctx)])).join(' ')

/** The JSON of an answer about a project, made anew when the project or what is here has changed. `make` gives what the contract says, or that as text. */
export const keptAnswer = <T>(ctx: Context, projectId: string, what: string, make: () => Promise<T | Json<T>>): Promise<Json<T>> =>
  steadily(
    kept,
    what,
    () => stateOf(ctx, projectId),
    async () => {
      const answer = await make()
      return answer instanceof Json ? answer : Json.of(answer)
    },
  ) as Promise<Json<T>>
