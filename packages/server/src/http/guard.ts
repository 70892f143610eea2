/** Who is let in, and what browsers are told of every answer. */
import type { FastifyInstance } from 'fastify'
import { addressOf, routes } from '@naranja/contract'
import { askedBy } from '../platform/index.ts'
import type { KnownBrowsers } from './known.ts'
import { problem } from './problems.ts'

export type Trusted = (headers: Record<string, unknown>) => boolean

/** Requests from pages of other hosts, or by other names for this one, are refused (DNS rebinding, cross-site requests). */
export function guard(app: FastifyInstance, port: () => number): void {
  app.addHook('onRequest', async (req, reply) => {
    const names = new Set([`127.0.0.1:${port()}`, `localhost:${port()}`, `[::1]:${port()}`])
    const host = req.headers.host ?? ''
    const { origin } = req.headers
    const known = names.has(host) && (origin === undefined || names.has(origin.replace(/^http:\/\//, '')))
    if (!known || req.headers['sec-fetch-site'] === 'cross-site')
      return reply.code(403).send(problem('not-allowed', 'Naranja answers only its own pages on this machine.'))
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
export function letIn(app: FastifyInstance, browsers: KnownBrowsers, trusted: Trusted): void {
  // Who asks is known to all that is done for it: people take turns where pictures are waited for.
  app.addHook('onRequest', (req, _reply, done) => askedBy(req.cookies[browsers.cookie], done))
  app.addHook('onRequest', async (req, reply) => {
    // By the route that was found, not by how its address was written.
    const route = req.routeOptions.url ?? ''
    if (route.startsWith('/api/')) {
      if (route === addressOf(routes.health, undefined) || trusted(req.headers) || (await browsers.knows(req.cookies[browsers.cookie]))) return
      return reply
        .code(401)
        .send(problem('not-known', 'This browser is not known here. Run ./naranja address where Naranja runs, and open the address that it prints.'))
    }
    const { key } = req.query as { key?: unknown }
    if (typeof key !== 'string' || req.method !== 'GET') return
    const token = (await browsers.knows(req.cookies[browsers.cookie])) ? null : await browsers.exchange(key)
    if (token) reply.setCookie(browsers.cookie, token, browsers.options)
    return reply.header('cache-control', 'no-store').redirect(withoutKey(req.url), 303)
  })
}

/** What the page may load and run: nothing but what this application serves. */
export const pagePolicy =
  "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; style-src 'self' 'unsafe-inline'; connect-src 'self'; font-src 'self' data:; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
/** A sheet to print runs nothing at all. */
const sheetPolicy =
  "default-src 'none'; img-src 'self' data:; style-src 'unsafe-inline'; font-src 'self' data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"

/** What browsers are told of every answer: that it is what it says it is, stands in no frame of others, and is kept only where that is said. */
export function headers(app: FastifyInstance): void {
  app.addHook('onSend', async (_req, reply, payload) => {
    reply.header('x-content-type-options', 'nosniff').header('x-frame-options', 'DENY').header('referrer-policy', 'no-referrer')
    if (!reply.hasHeader('cache-control')) reply.header('cache-control', 'no-store')
    if (String(reply.getHeader('content-type')).startsWith('text/html') && !reply.hasHeader('content-security-policy'))
      reply.header('content-security-policy', sheetPolicy)
    return payload
  })
}
