/** The table of routes, mounted: every request is validated by the contract, handed to its handler, and answered as the contract says. */
import { Readable } from 'node:stream'
import { byRows, Id, paramNames, ProblemAnswer, type Route, type RouteName, routes } from '@naranja/contract'
import type { FastifyInstance, FastifyReply } from 'fastify'
import { z } from 'zod'
import { arrivalsRoutes, type ArrivalWatch } from '../arrivals/index.ts'
import { backupsRoutes } from '../backups/index.ts'
import { conformRoutes } from '../conform/index.ts'
import { copiesRoutes } from '../copies/index.ts'
import { cutsRoutes } from '../cuts/index.ts'
import { handoverRoutes } from '../handover/index.ts'
import { historyRoutes } from '../history/index.ts'
import { intakeRoutes } from '../intake/index.ts'
import { mastersRoutes } from '../masters/index.ts'
import { originalsRoutes } from '../originals/index.ts'
import { pairingRoutes } from '../pairing/index.ts'
import { pictureRoutes } from '../picture/index.ts'
import { type ParsedRequest, Content, type Context, type Handlers, Json, Pieces } from '../platform/index.ts'
import { projectRoutes } from '../project/index.ts'
import { reconnectRoutes } from '../reconnect/index.ts'
import { sourcesRoutes } from '../sources/index.ts'
import { spaceRoutes } from '../space/index.ts'
import { specsRoutes } from '../specs/index.ts'
import { trialsRoutes } from '../trials/index.ts'
import { tasksRoutes } from '../tasks/index.ts'
import { type Viewer, viewerRoutes } from '../viewer/index.ts'
import { volumesRoutes } from '../volumes/index.ts'
import { refuseWithoutRoom, workingRoutes } from '../working/index.ts'
import { AnswersSent } from './changed.ts'
import type { Trusted } from './guard.ts'
import { listText } from './pieces.ts'
import { httpRoutes, type WayIn } from './routes.ts'

/** What handlers need beside the context. */
export interface Rooms extends WayIn {
  readonly viewer: Viewer
  readonly arrivals: ArrivalWatch
}

const handlersOf = ({ viewer, arrivals, ...wayIn }: Rooms): Handlers => ({
  ...httpRoutes(wayIn),
  ...volumesRoutes,
  ...tasksRoutes,
  ...workingRoutes,
  ...historyRoutes,
  ...pictureRoutes,
  ...originalsRoutes,
  ...specsRoutes,
  ...sourcesRoutes,
  ...cutsRoutes,
  ...copiesRoutes,
  ...trialsRoutes,
  ...spaceRoutes,
  ...pairingRoutes,
  ...handoverRoutes,
  ...intakeRoutes,
  ...arrivalsRoutes(arrivals),
  ...backupsRoutes,
  ...reconnectRoutes,
  ...conformRoutes,
  ...mastersRoutes,
  ...viewerRoutes(viewer),
  ...projectRoutes,
})

const problems = { 400: ProblemAnswer, 403: ProblemAnswer, 404: ProblemAnswer, 409: ProblemAnswer, 422: ProblemAnswer, 500: ProblemAnswer, 507: ProblemAnswer }

/** The parameters of a path as they are validated. */
const paramsOf = (route: Route): z.ZodObject => {
  const { path } = route
  const params = route.params as z.ZodObject | undefined
  const ids = paramNames(path).filter((n) => !params || !(n in params.shape))
  return z.object({ ...Object.fromEntries(ids.map((n) => [n, Id])), ...params?.shape })
}

/** Ends when whoever asked has gone without the answer. */
function gone(reply: FastifyReply): AbortSignal {
  const a = new AbortController()
  reply.raw.on('close', () => !reply.raw.writableFinished && a.abort())
  return a.signal
}

async function send(reply: FastifyReply, route: Route, answer: unknown, sent: AnswersSent): Promise<unknown> {
  const { type = 'application/json; charset=utf-8', answer: schema } = route
  if (answer instanceof Json) {
    const { url, headers } = reply.request
    if (!route.byRows || headers['a-im'] !== byRows) return reply.type(type).send(answer.text)
    const { tag, text, changed } = sent.answer(url, answer, headers['if-none-match'])
    if (changed) reply.code(226).header('im', byRows)
    return reply.type(type).header('etag', tag).send(text)
  }
  if (answer instanceof Pieces && schema) return reply.type(type).send(Readable.from(await listText(answer, schema)))
  if (!(answer instanceof Content)) return answer === undefined ? { ok: true } : answer
  const { bytes, headers, stop } = answer
  if (stop) reply.request.raw.on('close', () => reply.request.raw.destroyed && stop())
  return reply.type(type).headers(headers).send(bytes)
}

export function mountRoutes(app: FastifyInstance, ctx: Context, rooms: Rooms, trusted: Trusted): void {
  const handlers = handlersOf(rooms)
  const sent = new AnswersSent()
  for (const name of Object.keys(routes) as RouteName[]) {
    const route: Route = routes[name]
    const { method, path, query, body, answer } = route
    // Each handler is called with what its own route validated.
    const handler = handlers[name] as (ctx: Context, asked: ParsedRequest<Route>) => unknown
    app.route({
      method,
      url: `/api${path}`,
      ...(route.bodyLimit ? { bodyLimit: route.bodyLimit } : {}),
      ...(route.begins ? { preHandler: () => refuseWithoutRoom(ctx) } : {}),
      schema: {
        operationId: name,
        hide: route.hidden ?? false,
        params: paramsOf(route),
        ...(query ? { querystring: query } : {}),
        ...(body ? { body } : {}),
        response: { ...(answer ? { 200: answer } : {}), ...problems },
      },
      handler: async (req, reply) => {
        const asked = {
          ...{ params: req.params, query: req.query, body: req.body },
          // Only who asks for these has them worked out: most requests end before anybody goes.
          get trusted() {
            return trusted(req.headers)
          },
          get gone() {
            return gone(reply)
          },
        } as ParsedRequest<Route>
        return send(reply, route, await handler(ctx, asked), sent)
      },
    })
  }
}
