/** A process that ended badly, with the last lines it said. */
export class MediaError extends Error {
  constructor(
    message: string,
    readonly detail: string,
    readonly command: string,
  ) {
    super(message)
  }
}
