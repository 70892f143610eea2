/** Routes of the way in: that the application is there, what it can be asked, what it tells by itself, and whom it lets in. */
import type { Described } from '@naranja/contract'
import type { z } from 'zod'
import { Content, type Handlers, Refusal } from '../platform/index.ts'
import type { Door } from './door.ts'
import type { KnownBrowsers } from './known.ts'
import type { Live } from './live.ts'

export interface WayIn {
  readonly live: Live
  readonly browsers: KnownBrowsers
  readonly door: Door | null
  /** The table of routes as OpenAPI. */
  readonly describe: () => z.infer<typeof Described>
}

/** For the command on this machine: workers on other machines, and what lets each of them in. */
function doorFor(trusted: boolean, door: Door | null): Door {
  if (!trusted) throw new Refusal('not-allowed', 'Workers are let in by ./naranja worker --new NAME, where Naranja runs.')
  if (!door) throw new Refusal('blocked', 'The door for workers is closed. Start Naranja with --listen to open it.')
  return door
}

export const httpRoutes = ({ live, browsers, door, describe }: WayIn) =>
  ({
    health: (ctx) => ({ ok: true, name: 'naranja', version: '0.1.0', instance: ctx.config.instance }),
    described: () => describe(),
    events: () => new Content(live.listen()),
    newBrowser: async (_ctx, { trusted }) => {
      // A browser that is known lets no other in: that is for whoever may read the configuration.
      if (!trusted) throw new Refusal('not-allowed', 'An address for another browser is made by ./naranja address, where Naranja runs.')
      return { key: await browsers.offer() }
    },
    newWorker: async (_ctx, { trusted, body }) => ({ token: await doorFor(trusted, door).make(body.name) }),
    workers: (_ctx, { trusted }) => doorFor(trusted, door).list(),
    removeWorker: async (_ctx, { trusted, params }) => {
      if (!(await doorFor(trusted, door).takeBack(params.name))) throw new Refusal('not-found', `No worker called "${params.name}" was given an address.`)
      return { ok: true }
    },
  }) satisfies Partial<Handlers>
