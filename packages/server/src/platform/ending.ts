/** How a process of ours stays up, and how it ends: in order where it can, and in any case soon. */
import { pino } from 'pino'
import { isForRoom } from './errors.ts'

/** Milliseconds for an end in order. Where database and queue were asked to end in the same moment, waiting for them would never end. */
const patience = 5000

/** Where logs are written. A disk that is full takes none; that is no reason to end. */
export function logStream(): ReturnType<typeof pino.destination> {
  const out = pino.destination({ fd: 1, sync: true })
  out.on('error', () => undefined)
  return out
}

/**
 * Ends this process in order when it is asked to. Something that went wrong where nobody waited for it is reported, and ends nothing; an error
 * that nobody caught ends it, and it is started anew, unless it is for want of room: then starting anew would help as little.
 */
export function endWhenAsked(end: () => Promise<void>, report: (e: unknown) => void): void {
  process.on('unhandledRejection', report)
  process.on('uncaughtException', (e) => {
    report(e)
    if (!isForRoom(e)) process.exit(1)
  })
  let ending = false
  for (const s of ['SIGTERM', 'SIGINT'] as const)
    process.on(s, () => {
      if (ending) return
      ending = true
      setTimeout(() => process.exit(1), patience).unref()
      void end().finally(() => process.exit(0))
    })
}
