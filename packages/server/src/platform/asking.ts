/** Who asks, within a request: nothing where it is the command on this machine, or where work goes on by itself. */
import { AsyncLocalStorage } from 'node:async_hooks'
import { createHash } from 'node:crypto'

/** What is kept of a secret: nobody finds it by that. */
export const digest = (secret: string): string => createHash('sha256').update(secret).digest('hex')

const asking = new AsyncLocalStorage<string>()

/** Does `work` for the browser that shows this cookie, or for nobody. */
export const askedBy = <T>(cookie: string | undefined, work: () => T): T => asking.run(cookie ? digest(cookie).slice(0, 16) : '', work)

/** The browser that asks: sixteen characters, or none. */
export const whoAsks = (): string => asking.getStore() ?? ''
