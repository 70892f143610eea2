/** Inputs that are written into FFmpeg as it asks for them, through pipes of their own: what no FFmpeg reads by itself. */
import type { Readable, Writable } from 'node:stream'

/** Makes what is written, piece by piece, each good until the next is asked for; ends early when the signal says so. */
export type Feed = (signal: AbortSignal) => AsyncIterable<Buffer>

const feeds = new Map<string, Feed>()
let made = 0

/** The name under which an input is given to FFmpeg; the run that uses it feeds it, once. */
export function feedName(feed: Feed): string {
  const name = `feed:${++made}`
  feeds.set(name, feed)
  // An argument list that nobody runs is forgotten.
  if (feeds.size > 5000) for (const old of [...feeds.keys()].slice(0, 1000)) feeds.delete(old)
  return name
}

export interface Fed {
  /** With a pipe in place of every feed. */
  readonly args: string[]
  /** Pipes beside standard input, output and error. */
  readonly pipes: 'pipe'[]
  /** Begins to write. Resolves when the run has taken all it wanted; rejects with what went wrong in the making. */
  write(stdio: readonly (Readable | Writable | null | undefined)[]): { readonly written: Promise<void>; stop(): void }
}

/** The arguments of a run, and what feeds it. */
export function fed(args: readonly string[]): Fed {
  const found: Feed[] = []
  const own = args.map((a) => {
    const feed = feeds.get(a)
    if (!feed) return a
    found.push(feed)
    return `pipe:${2 + found.length}`
  })
  return {
    args: own,
    pipes: found.map(() => 'pipe' as const),
    write(stdio) {
      const end = new AbortController()
      const all = found.map(async (feed, i) => {
        const to = stdio[3 + i] as Writable
        let open = true
        // A run that has what it wants closes its end: the rest is not made.
        to.on('error', () => {
          open = false
        })
        to.on('close', () => {
          open = false
        })
        for await (const piece of feed(end.signal)) {
          if (!open || end.signal.aborted) break
          // It may stand in a buffer that the next one is read into.
          await new Promise<void>((r) => to.write(piece, () => r()))
        }
        to.end()
      })
      const written = Promise.all(all).then(
        () => undefined,
        (e) => {
          for (let i = 0; i < found.length; i++) (stdio[3 + i] as Writable).destroy()
          if (!end.signal.aborted) throw e
        },
      )
      written.catch(() => undefined)
      return { written, stop: () => end.abort() }
    },
  }
}
