/** A process that ended badly, with the last lines it said. */
/** What a program decides by, of what went wrong with a file; all else is `other`. */
export type MediaFault = 'no-room' | 'damaged' | 'other'

export class MediaError extends Error {
  constructor(
    message: string,
    readonly detail: string,
    readonly command: string,
    readonly fault: MediaFault = 'other',
  ) {
    super(message)
  }
}
