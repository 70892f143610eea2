/** What the command says while it works: one line a step, rewritten in place on a terminal. */
let open = false

/** A finished line. */
export function say(text: string): void {
  if (open) process.stderr.write('\r\x1b[K')
  open = false
  process.stderr.write(`${text}\n`)
}

let last = 0
/** A line that the next one takes the place of; off a terminal one now and then. */
export function step(text: string): void {
  if (process.stderr.isTTY) {
    process.stderr.write(`\r\x1b[K${text}`)
    open = true
  } else if (Date.now() - last > 5000) {
    last = Date.now()
    process.stderr.write(`${text}\n`)
  }
}

/** A moment to the minute, as it is in UTC. */
export const minuteOf = (iso: string): string => iso.slice(0, 16).replace('T', ' ')
