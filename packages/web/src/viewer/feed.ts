/** Feeds pictures and sound of a playlist to the browser, piece by piece, a little ahead of what is shown. */
import { type Playlist, ProblemAnswer } from '@naranja/contract'

const mime = 'video/mp4; codecs="avc1.42c028"'
const soundMime = 'audio/mp4; codecs="flac"'
/** Seconds kept ready ahead of the picture, at real time. */
const ahead = 5
/** Seconds of what was shown that are kept. */
const behind = 20

/** When a frame begins, in seconds. */
export const secondsOf = (frame: number, { num, den }: Playlist['rate']): number => (frame * den) / num

/** What the server says of a piece that it cannot make. */
async function reason(answer: Response, frame: number): Promise<string> {
  const said = ProblemAnswer.safeParse(await answer.json().catch(() => null))
  return said.success ? said.data.error.message : `The pictures from frame ${frame} on could not be made.`
}

/** Waits until nothing is being taken in. The end of what was taken before may be told after the next has been begun: it is looked at again each time. */
async function idle(b: SourceBuffer): Promise<void> {
  while (b.updating) await new Promise((r) => b.addEventListener('updateend', r, { once: true }))
}

interface PlayedRange {
  /** Frames, half-open. */
  readonly from: number
  readonly to: number
  /** Against real time. */
  readonly speed: number
  readonly signal: AbortSignal
}

/** Feeds the frames of a part; ends when all are there, or when the signal says so. A piece that cannot be made is an error with the server's reason. */
export async function feed(source: MediaSource, element: HTMLVideoElement, playlist: Playlist, { from, to, speed, signal }: PlayedRange): Promise<void> {
  const at = (frame: number) => secondsOf(frame, playlist.rate)
  const pictures = source.addSourceBuffer(mime)
  const sound = playlist.sound && MediaSource.isTypeSupported(soundMime) ? source.addSourceBuffer(soundMime) : null
  source.duration = at(playlist.length)
  for (const piece of playlist.pieces) {
    if (piece.out <= from) continue
    if (piece.in >= to) break
    const start = Math.max(piece.in, from)
    while (!signal.aborted && at(start) > element.currentTime + ahead * Math.max(1, speed)) await new Promise((r) => setTimeout(r, 100))
    if (signal.aborted) return
    const answer = await fetch(start === piece.in ? piece.url : piece.url.replace(/from=\d+/, `from=${start}`), { signal })
    if (!answer.ok || !answer.body) throw new Error(await reason(answer, start))
    const heard = sound ? hear(sound, `${playlist.sound}&from=${start}&to=${piece.out}`, start, at(start), signal) : null
    heard?.catch(() => undefined)
    await idle(pictures)
    pictures.timestampOffset = at(start)
    await take(pictures, answer.body.getReader(), signal)
    if (signal.aborted) return
    await heard
    await forget(pictures, element.currentTime - behind)
  }
  if (!signal.aborted && source.readyState === 'open') source.endOfStream()
}

/** Takes the pictures of a piece as they come. */
async function take(buffer: SourceBuffer, reader: ReadableStreamDefaultReader<Uint8Array<ArrayBuffer>>, signal: AbortSignal): Promise<void> {
  for (;;) {
    const { done, value } = await reader.read()
    if (done) break
    await idle(buffer)
    if (signal.aborted) return
    buffer.appendBuffer(value)
  }
  await idle(buffer)
}

/** Takes the sound of a piece, whole. */
async function hear(buffer: SourceBuffer, url: string, frame: number, offset: number, signal: AbortSignal): Promise<void> {
  const answer = await fetch(url, { signal })
  if (!answer.ok) throw new Error(await reason(answer, frame))
  const bytes = await answer.arrayBuffer()
  await idle(buffer)
  if (signal.aborted) return
  buffer.timestampOffset = offset
  buffer.appendBuffer(bytes)
  await idle(buffer)
}

/** Gives back what was shown before this moment, in seconds. */
async function forget(buffer: SourceBuffer, before: number): Promise<void> {
  if (before <= 5 || !buffer.buffered.length || buffer.buffered.start(0) >= before) return
  buffer.remove(0, before)
  await idle(buffer)
}
