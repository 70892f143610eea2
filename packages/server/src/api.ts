/** The API: loopback only, known hosts and origins only, everything validated, changes pushed. It encodes nothing itself. */
import { existsSync } from 'node:fs'
import { timingSafeEqual } from 'node:crypto'
import fastifyCookie from '@fastify/cookie'
import fastifyStatic from '@fastify/static'
import fastifySwagger from '@fastify/swagger'
import { LiveEvent } from '@naranja/contract'
import { MediaError } from '@naranja/media'
import { pino } from 'pino'
import Fastify, { type FastifyInstance, type FastifyReply } from 'fastify'
import {
  hasZodFastifySchemaValidationErrors,
  isResponseSerializationError,
  jsonSchemaTransform,
  serializerCompiler,
  validatorCompiler,
} from 'fastify-type-provider-zod'
import { Redis } from 'ioredis'
import { z } from 'zod'
import { ArrivalWatch } from './arrivals/index.ts'
import { cardArrived } from './backups/index.ts'
import { type Door, KnownBrowsers, mountRoutes, openDoor, openDoorOf } from './http/index.ts'
import { proveEverywhere } from './intake/index.ts'
import { noteGone } from './originals/index.ts'
import { comparePending } from './pairing/index.ts'
import { readConfig } from './config/index.ts'
import { askedBy, type Context, diskRefusal, endWhenAsked, liveChannel, logStream, openContext, redisOptions, Refusal } from './platform/index.ts'
import { CompareWatch, printsEverywhere } from './reconnect/index.ts'
import { seedSpecs } from './specs/index.ts'
import { clearBeside } from './database/index.ts'
import { openStore } from './store/index.ts'
import { keepTidy, progressNow, reconcile } from './tasks/index.ts'
import { Viewer } from './viewer/index.ts'
import { stayInside, watchVolumes } from './volumes/index.ts'
import { keepWorking, ownRoom, watchRoom } from './working/index.ts'

const body = (code: string, message: string, details: string[] = [], now?: unknown) => ({ error: { code, message, details, now } })

/** Requests from pages of other hosts, or by other names for this one, are refused (DNS rebinding, cross-site requests). */
function guard(app: FastifyInstance, port: () => number): void {
  app.addHook('onRequest', async (req, reply) => {
    const names = new Set([`127.0.0.1:${port()}`, `localhost:${port()}`, `[::1]:${port()}`])
    const host = req.headers.host ?? ''
    const { origin } = req.headers
    const known = names.has(host) && (origin === undefined || names.has(origin.replace(/^http:\/\//, '')))
    if (!known || req.headers['sec-fetch-site'] === 'cross-site')
      return reply.code(403).send(body('not-allowed', 'Naranja answers only its own pages on this machine.'))
  })
}

/** Where a path leads on this server once a key is taken off it; never to another. */
function withoutKey(url: string): string {
  const { pathname, searchParams } = new URL(url, 'http://127.0.0.1')
  searchParams.delete('key')
  return `${pathname.replace(/^\/+/, '/')}${searchParams.size ? `?${searchParams}` : ''}`
}

/**
 * Everything but health and the page itself is for browsers that are known, and for the command on this machine: other accounts can reach the
 * port, but have neither key nor cookie. A page that is opened with a key makes its browser known.
 */
function letIn(app: FastifyInstance, browsers: KnownBrowsers, trusted: (headers: Record<string, unknown>) => boolean): void {
  // Who asks is known to all that is done for it: people take turns where pictures are waited for.
  app.addHook('onRequest', (req, _reply, done) => askedBy(req.cookies[browsers.cookie], done))
  app.addHook('onRequest', async (req, reply) => {
    // By the route that was found, not by how its address was written.
    const route = req.routeOptions.url ?? ''
    if (route.startsWith('/api/')) {
      if (route === '/api/health' || trusted(req.headers) || (await browsers.knows(req.cookies[browsers.cookie]))) return
      return reply
        .code(401)
        .send(body('not-known', 'This browser is not known here. Run ./naranja address where Naranja runs, and open the address that it prints.'))
    }
    const { key } = req.query as { key?: unknown }
    if (typeof key !== 'string' || req.method !== 'GET') return
    const token = (await browsers.knows(req.cookies[browsers.cookie])) ? null : await browsers.exchange(key)
    if (token) reply.setCookie(browsers.cookie, token, browsers.options)
    return reply.header('cache-control', 'no-store').redirect(withoutKey(req.url), 303)
  })
}

/** What the page may load and run: nothing but what this application serves. */
const pagePolicy =
  "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; style-src 'self' 'unsafe-inline'; connect-src 'self'; font-src 'self' data:; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
/** A sheet to print runs nothing at all. */
const sheetPolicy =
  "default-src 'none'; img-src 'self' data:; style-src 'unsafe-inline'; font-src 'self' data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

/** What browsers are told of every answer: that it is what it says it is, stands in no frame of others, and is kept only where that is said. */
function headers(app: FastifyInstance): void {
  app.addHook('onSend', async (_req, reply, payload) => {
    reply.header('x-content-type-options', 'nosniff').header('x-frame-options', 'DENY').header('referrer-policy', 'no-referrer')
    if (!reply.hasHeader('cache-control')) reply.header('cache-control', 'no-store')
    if (String(reply.getHeader('content-type')).startsWith('text/html') && !reply.hasHeader('content-security-policy'))
      reply.header('content-security-policy', sheetPolicy)
    return payload
  })
}

function live(app: FastifyInstance, ctx: Context): Redis {
  const open = new Set<FastifyReply>()
  const sub = new Redis(redisOptions(ctx.config))
  void sub.subscribe(liveChannel)
  sub.on('message', (_channel, text) => {
    const event = LiveEvent.parse(JSON.parse(text))
    if (event.type === 'progress') {
      const { taskId, type: _type, ...now } = event
      progressNow.set(taskId, now)
    } else if (event.type === 'changed' && event.topics.includes('tasks') && progressNow.size > 5000) progressNow.clear()
    for (const r of open) r.raw.write(`data: ${text}\n\n`)
  })
  app.get('/api/events', { schema: { hide: true } }, (req, reply) => {
    reply.hijack()
    reply.raw.writeHead(200, { 'content-type': 'text/event-stream', 'cache-control': 'no-store', connection: 'keep-alive' })
    reply.raw.write(': open\n\n')
    open.add(reply)
    req.raw.on('close', () => open.delete(reply))
  })
  const alive = setInterval(() => {
    for (const r of open) r.raw.write(': alive\n\n')
  }, 15_000)
  app.addHook('preClose', async () => {
    clearInterval(alive)
    for (const r of open) r.raw.end()
  })
  return sub
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
  const trusted = (headers: Record<string, unknown>): boolean => {
    const given = Buffer.from(String(headers['x-naranja-key'] ?? ''))
    const key = Buffer.from(config.key)
    return given.length === key.length && timingSafeEqual(given, key)
  }
  const failed = (e: Error) => app.log.error(e.message)
  const browsers = new KnownBrowsers(ctx)
  const door = config.listen ? openDoor(ctx, config.listen, failed) : null
  guard(app, () => config.api.port)
  await app.register(fastifyCookie)
  letIn(app, browsers, trusted)
  headers(app)
  app.setErrorHandler((error: Error & { statusCode?: number; validation?: unknown }, req, reply) => {
    if (error instanceof Refusal) return reply.code(error.status).send(body(error.code, error.message, error.details, error.now))
    // The database keeps what must be there once: whoever comes second is told.
    if ((error as { code?: string }).code === 'ER_DUP_ENTRY')
      return reply.code(409).send(body('taken', 'Somebody else did the same at this moment. Look at what is there now, and do it again if it is still wanted.'))
    const disk = diskRefusal(error as { code?: string })
    if (disk) return reply.code(disk.status).send(body(disk.code, disk.message))
    if (error instanceof MediaError) return reply.code(422).send(body('unreadable', error.message))
    if (hasZodFastifySchemaValidationErrors(error))
      return reply
        .code(400)
        .send(body('bad-request', `The request is not valid: ${error.validation.map((v) => `${v.instancePath.slice(1) || 'body'}: ${v.message}`).join('; ')}.`))
    if (isResponseSerializationError(error)) req.log.error({ issues: error.cause.issues, url: req.url }, 'an answer does not fit the contract')
    else if (!error.statusCode || error.statusCode >= 500) req.log.error(error)
    const status = error.statusCode && error.statusCode < 500 ? error.statusCode : 500
    return reply
      .code(status)
      .send(
        body(
          status === 500 ? 'internal' : 'bad-request',
          status === 500 ? `Something went wrong inside Naranja: ${error.message}. The log in ${config.folder} says more.` : error.message,
        ),
      )
  })
  app.post('/api/browsers', { schema: { hide: true } }, async (req) => {
    // A browser that is known lets no other in: that is for whoever may read the configuration.
    if (!trusted(req.headers)) throw new Refusal('not-allowed', 'An address for another browser is made by ./naranja address, where Naranja runs.')
    return { key: await browsers.offer() }
  })
  // For the command on this machine: workers on other machines, and what lets each of them in.
  const ours = (headers: Record<string, unknown>): Door => {
    if (!trusted(headers)) throw new Refusal('not-allowed', 'Workers are let in by ./naranja worker --new NAME, where Naranja runs.')
    return openDoorOf(door)
  }
  app.post('/api/workers', { schema: { hide: true, body: z.object({ name: z.string().trim().min(1).max(80) }) } }, async (req) => {
    const { name } = req.body as { name: string }
    return { token: await ours(req.headers).make(name) }
  })
  app.get('/api/workers', { schema: { hide: true } }, async (req) => ours(req.headers).list())
  app.delete('/api/workers/:name', { schema: { hide: true } }, async (req) => {
    const { name } = req.params as { name: string }
    if (!(await ours(req.headers).takeBack(name))) throw new Refusal('not-found', `No worker called "${name}" was given an address.`)
    return { ok: true }
  })
  await app.register(fastifySwagger, { openapi: { info: { title: 'Naranja', version: '0.1.0' } }, transform: jsonSchemaTransform })
  stayInside(ctx)
  const viewer = new Viewer(ctx)
  const arrivals = new ArrivalWatch(ctx, failed)
  const comparing = new CompareWatch(ctx, failed)
  const sub = live(app, ctx)
  await app.register(async (scope) => mountRoutes(scope, ctx, { viewer, arrivals }, trusted))
  app.get('/api/openapi.json', { schema: { hide: true } }, () => app.swagger())
  if (existsSync(config.web)) {
    await app.register(fastifyStatic, { root: config.web, maxAge: '1h', immutable: false, index: false })
    const page = (reply: FastifyReply) =>
      reply.header('cache-control', 'no-store').header('content-security-policy', pagePolicy).sendFile('index.html', { cacheControl: false })
    app.get('/', { schema: { hide: true } }, (_req, reply) => page(reply))
    app.setNotFoundHandler((req, reply) =>
      req.url.startsWith('/api/') ? reply.code(404).send(body('not-found', `There is nothing at ${req.url}.`)) : page(reply),
    )
  } else app.setNotFoundHandler((req, reply) => reply.code(404).send(body('not-found', `There is nothing at ${req.url}.`)))
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
      sub.disconnect()
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
