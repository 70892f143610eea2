/**
 * Small pictures by the dozen, fetched a few at a time: a browser opens six connections to a server, and a picture that is
 * being made must not keep the answers of a button waiting. What was asked for last comes first.
 */
import { addressOf, type ClipRow, routes, type Viewing } from '@naranja/contract'
import { useEffect, useState } from 'react'

/** The same frame of one of its edit copies. */
export const copyStill = (clipId: string, copyId: string, frame: number, width: number): string =>
  addressOf(routes.clipStill, { clipId, frame, width, copy: copyId })

/** Where a frame of a clip is shown from, at a width in pixels; a look that is tried on it is named. */
export const clipStill = (clip: Pick<ClipRow, 'id' | 'shownAs'>, frame: number, width: number, viewing: Viewing, look: string | null = null): string =>
  addressOf(routes.clipStill, { clipId: clip.id, frame, width, viewing, as: clip.shownAs || undefined, look: look ?? undefined })

const atOnce = 3
interface Request {
  readonly url: string
  readonly ready: (image: HTMLImageElement) => void
  image: HTMLImageElement | null
}
const waiting: Request[] = []
let open = 0

function next(): void {
  while (open < atOnce) {
    const r = waiting.pop()
    if (!r) return
    open++
    const image = new Image()
    r.image = image
    const done = (): void => {
      if (r.image === null) return
      r.image = null
      open--
      // An image that cannot be had is shown as the browser shows it.
      r.ready(image)
      next()
    }
    image.onload = done
    image.onerror = done
    image.src = r.url
  }
}

/** Fetches a picture in its turn; the function returned gives the turn up. */
export function askForStill(url: string, ready: (image: HTMLImageElement) => void): () => void {
  const r: Request = { url, ready, image: null }
  waiting.push(r)
  next()
  return () => {
    const i = waiting.indexOf(r)
    if (i >= 0) waiting.splice(i, 1)
    if (r.image) {
      const image = r.image
      r.image = null
      open--
      image.onload = null
      image.onerror = null
      image.src = ''
      next()
    }
  }
}

/** The picture to show for `url`: it, once it has come, and the one before it until then. */
export function useStill(url: string): string | undefined {
  const [shown, setShown] = useState<string>()
  useEffect(() => askForStill(url, () => setShown(url)), [url])
  return shown
}
