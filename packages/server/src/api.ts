/** The API: loopback only, known hosts and origins only, everything validated, changes pushed. It encodes nothing itself. */
import { existsSync } from 'node:fs'
import { timingSafeEqual } from 'node:crypto'
import fastifyCookie from '@fastify/cookie'
import fastifyStatic from '@fastify/static'
import fastifySwagger from '@fastify/swagger'
import { Described } from '@naranja/contract'
import { pino } from 'pino'
import Fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify'
import { jsonSchemaTransform, serializerCompiler, validatorCompiler } from 'fastify-type-provider-zod'
import { ArrivalWatch } from './arrivals/index.ts'
import { cardArrived } from './backups/index.ts'
import { answerProblems, Door, guard, headers, KnownBrowsers, letIn, Live, mountRoutes, pagePolicy, problem, type Trusted } from './http/index.ts'
import { proveEverywhere } from './intake/index.ts'
import { noteGone } from './originals/index.ts'
import { comparePending } from './pairing/index.ts'
import { readConfig } from './config/index.ts'
import { type Context, endWhenAsked, logStream, openContext } from './platform/index.ts'
import { CompareWatch, printsEverywhere } from './reconnect/index.ts'
import { seedSpecs } from './specs/index.ts'
import { clearBeside } from './database/index.ts'
import { openStore } from './store/index.ts'
import { keepTidy, reconcile } from './tasks/index.ts'
import { Viewer } from './viewer/index.ts'
import { stayInside, watchVolumes } from './volumes/index.ts'
import { keepWorking, ownRoom, watchRoom } from './working/index.ts'

/** The page, where it has been built; whatever is no route of the API is one of its addresses. */
async function servePage(app: FastifyInstance, web: string): Promise<void> {
  const nothing = (req: FastifyRequest, reply: FastifyReply) => reply.code(404).send(problem('not-found', `There is nothing at ${req.url}.`))
  if (!existsSync(web)) {
    app.setNotFoundHandler(nothing)
    return
  }
  await app.register(fastifyStatic, { root: web, maxAge: '1h', immutable: false, index: false })
  const page = (reply: FastifyReply) =>
    reply.header('cache-control', 'no-store').header('content-security-policy', pagePolicy).sendFile('index.html', { cacheControl: false })
  app.get('/', { schema: { hide: true } }, (_req, reply) => page(reply))
  app.setNotFoundHandler((req, reply) => (req.url.startsWith('/api/') ? nothing(req, reply) : page(reply)))
}

export interface Api {
  readonly app: FastifyInstance
  readonly ctx: Context
  readonly port: number
  close(): Promise<void>
}

export async function startApi(folder: string): Promise<Api> {
  const config = readConfig(folder)
  const ctx = openContext(config, await openStore(config))
  const app = Fastify({
    logger: { level: 'warn', stream: logStream() },
    forceCloseConnections: true,
    bodyLimit: 4_000_000,
    routerOptions: { maxParamLength: 200 },
  })
  app.setValidatorCompiler(validatorCompiler)
  app.setSerializerCompiler(serializerCompiler)
  const trusted: Trusted = (headers) => {
    const given = Buffer.from(String(headers['x-naranja-key'] ?? ''))
    const key = Buffer.from(config.key)
    return given.length === key.length && timingSafeEqual(given, key)
  }
  const failed = (e: Error) => app.log.error(e.message)
  const browsers = new KnownBrowsers(ctx)
  const door = config.listen ? new Door(ctx, config.listen, failed) : null
  guard(app, () => config.api.port)
  await app.register(fastifyCookie)
  letIn(app, browsers, trusted)
  headers(app)
  answerProblems(app, config.folder)
  await app.register(fastifySwagger, { openapi: { info: { title: 'Naranja', version: '0.1.0' } }, transform: jsonSchemaTransform })
  stayInside(ctx)
  const viewer = new Viewer(ctx)
  const arrivals = new ArrivalWatch(ctx, failed)
  const comparing = new CompareWatch(ctx, failed)
  const live = new Live(ctx)
  app.addHook('preClose', async () => live.silence())
  const rooms = { viewer, arrivals, live, browsers, door, describe: () => Described.parse(app.swagger()) }
  await app.register(async (scope) => mountRoutes(scope, ctx, rooms, trusted))
  await servePage(app, config.web)
  await clearBeside(ctx.db)
  await seedSpecs(ctx)
  await reconcile(ctx)
  const tidy = async () => {
    if ((await ownRoom(config.folder)).low) return
    await Promise.all([keepTidy(ctx), comparePending(ctx), proveEverywhere(ctx)])
  }
  const tidying = setInterval(() => void tidy().catch(failed), 8000)
  const unwatchRoom = watchRoom(ctx, failed)
  const unkeep = keepWorking(ctx, failed)
  arrivals.start()
  // The first look at volumes is a change too: it finds what a restart has lost.
  const unwatch = watchVolumes(ctx, {
    arrived: (volumeId) => cardArrived(ctx, volumeId),
    gone: (projectId, clips) => noteGone(ctx, projectId, clips).catch(failed),
    failed: (e) => app.log.error(`Volumes could not be looked at: ${e.message}`),
    changed: () =>
      comparePending(ctx)
        .then(() => proveEverywhere(ctx))
        .then(() => printsEverywhere(ctx)),
  })
  await app.listen({ port: config.api.port, host: '127.0.0.1' })
  return {
    app,
    ctx,
    port: config.api.port,
    async close() {
      clearInterval(tidying)
      unwatchRoom()
      unkeep()
      door?.close()
      arrivals.stop()
      unwatch()
      await comparing.stop()
      await app.close()
      live.close()
      await ctx.close()
    },
  }
}

const folder = process.argv[2]
if (folder && /\bapi\.[jt]s$/.test(process.argv[1] ?? '')) {
  const starting = startApi(folder)
  const log = pino({ name: 'api' }, logStream())
  endWhenAsked(
    async () => (await starting).close(),
    (e) => log.error(e),
  )
  await starting
}
