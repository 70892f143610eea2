/**
 * Browsers that are known. An address that carries a key, good once and for a day, makes a browser known: from then on it shows a token in a
 * cookie that no script reads and no other site sends. What is kept of keys and tokens are digests.
 */
import { createHash, randomBytes } from 'node:crypto'
import { LRUCache } from 'lru-cache'
import { type Context, digest } from '../platform/index.ts'

const day = 24 * 3600
/** Seconds for which a browser stays known that does not come back. */
const remembered = 400 * day

const secret = (): string => randomBytes(24).toString('base64url')

export class KnownBrowsers {
  /** Cookies are told apart by name and not by port: each instance has a name of its own. */
  readonly cookie: string
  readonly options = { httpOnly: true, sameSite: 'strict', path: '/', maxAge: remembered } as const
  /** Tokens that were shown lately, as digests: the queue's server is not asked for every picture. */
  private readonly shown = new LRUCache<string, true>({ max: 1000, ttl: 60_000 })

  constructor(private readonly ctx: Context) {
    this.cookie = `naranja-${createHash('sha1').update(ctx.config.folder).digest('hex').slice(0, 12)}`
  }

  /** A new key, good once. */
  async offer(): Promise<string> {
    const key = secret()
    await this.ctx.redis.set(`once ${digest(key)}`, '1', 'EX', day)
    return key
  }

  /** The token of a browser that shows a key; null where the key is used up, too old, or none. */
  async exchange(key: string): Promise<string | null> {
    if ((await this.ctx.redis.getdel(`once ${digest(key)}`)) === null) return null
    const token = secret()
    await this.ctx.redis.set(`browser ${digest(token)}`, new Date().toISOString(), 'EX', remembered)
    return token
  }

  async knows(token: string | undefined): Promise<boolean> {
    if (!token || token.length > 100) return false
    const d = digest(token)
    if (this.shown.has(d)) return true
    if ((await this.ctx.redis.set(`browser ${d}`, new Date().toISOString(), 'EX', remembered, 'XX')) === null) return false
    this.shown.set(d, true)
    return true
  }
}
