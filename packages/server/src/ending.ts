/** The end of a process of ours: in order where it can be, and in any case soon. */

/** Milliseconds for an end in order. Where database and queue were asked to end in the same moment, waiting for them would never end. */
const patience = 5000

/** Ends this process in order when it is asked to. */
export function endWhenAsked(end: () => Promise<void>): void {
  let ending = false
  for (const s of ['SIGTERM', 'SIGINT'] as const)
    process.on(s, () => {
      if (ending) return
      ending = true
      setTimeout(() => process.exit(1), patience).unref()
      void end().finally(() => process.exit(0))
    })
}
