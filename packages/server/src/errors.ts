/** Every refusal as a value: a code, a sentence for people, and the HTTP status. */
const statuses = {
  'not-found': 404,
  'not-allowed': 403,
  'bad-request': 400,
  unreadable: 422,
  stale: 409,
  blocked: 409,
  'light-copy': 409,
  taken: 409,
  away: 409,
  full: 507,
} as const
export type RefusalCode = keyof typeof statuses

export class Refusal extends Error {
  readonly status: number
  constructor(
    readonly code: RefusalCode,
    message: string,
    readonly details: string[] = [],
    /** What stands there now, where a change was refused because it saw something older. */
    readonly now?: unknown,
  ) {
    super(message)
    this.status = statuses[code]
  }
}

/** A refusal of a change that saw something older than what stands there: it is given along. */
export const stale = (message: string, now: unknown): Refusal => new Refusal('stale', message, [], now)

/** The value, or a refusal that says what is missing. */
export function found<T>(value: T | null | undefined, what: string): T {
  if (value === null || value === undefined) throw new Refusal('not-found', `${what} does not exist any more. Reload the page.`)
  return value
}
