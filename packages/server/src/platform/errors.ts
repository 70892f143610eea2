/** Every refusal as a value: a code, a sentence for people, and the HTTP status. */
import { MediaError } from '@naranja/media'

const statuses = {
  'not-known': 401,
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

/** What a disk says no with, in sentences; the path is the one that was meant. */
const diskSentences: Readonly<Record<string, readonly [RefusalCode, (path: string) => string]>> = {
  ENAMETOOLONG: ['bad-request', () => 'A name of this path is too long: disks keep names of up to 255 bytes. Take a shorter one.'],
  ENOSPC: ['full', (p) => `There is no room left where ${p} is to be written. Make room, or choose another place.`],
  EDQUOT: ['full', (p) => `This user may not take more room where ${p} is to be written. Make room, or choose another place.`],
  EROFS: ['not-allowed', (p) => `${p} is on a disk that may only be read. Choose another place.`],
  EACCES: ['not-allowed', (p) => `${p} may not be read or written by this user. Give it the right, or choose another place.`],
  EPERM: ['not-allowed', (p) => `${p} may not be changed by this user. Give it the right, or choose another place.`],
  ENOENT: ['unreadable', (p) => `${p} is not there any more. Look at the folder again.`],
  ENOTDIR: ['unreadable', (p) => `${p} is not a folder. Look at the folder above it again.`],
  EISDIR: ['unreadable', (p) => `${p} is a folder, not a file. Choose a file.`],
  ELOOP: ['unreadable', (p) => `${p} is a link that leads to itself. Choose what it was meant to lead to.`],
  EIO: ['unreadable', (p) => `The disk could not read or write ${p}. It may be failing: copy what is on it to another.`],
}

/** The refusal that an error of a disk comes to; null for every other error. */
export function diskRefusal(e: { readonly code?: string; readonly path?: unknown; readonly dest?: unknown }): Refusal | null {
  const known = e.code === undefined ? undefined : diskSentences[e.code]
  if (!known) return null
  const path = e.dest ?? e.path
  const [code, say] = known
  // Where the path is not told, the sentence begins with it, or goes on with it.
  const it = /^%/.test(say('%')) ? 'It' : 'it'
  return new Refusal(code, say(path === undefined ? it : Buffer.isBuffer(path) ? path.toString('utf8') : String(path)))
}

/** The codes of a disk, and of a database whose disk takes no more. */
const roomCodes: ReadonlySet<string> = new Set([
  ...['ENOSPC', 'EDQUOT'],
  ...['ER_DISK_FULL', 'ER_RECORD_FILE_FULL', 'ER_ERROR_ON_WRITE', 'ER_GET_ERRNO', 'ER_TEMP_FILE_WRITE_FAILURE'],
])

/** Whether something went wrong for want of room: on a disk, in the database, in the queue (whose word for it is MISCONF), or in FFmpeg. */
export function isForRoom(e: unknown): boolean {
  if (!(e instanceof Error)) return false
  if (e instanceof MediaError) return e.fault === 'no-room'
  if (e instanceof Refusal) return e.code === 'full'
  return roomCodes.has((e as { code?: string }).code ?? '') || e.message.startsWith('MISCONF') || (e.cause !== undefined && isForRoom(e.cause))
}
