/** A small picture that waits for its turn; until it has come, its place. */
import type { ImgHTMLAttributes } from 'react'
import { useStill } from './stills.ts'

export function Still({ url, ...rest }: { url: string } & Omit<ImgHTMLAttributes<HTMLImageElement>, 'src' | 'alt'>) {
  const src = useStill(url)
  // Without a source browsers draw a frame.
  return src ? <img alt="" src={src} {...rest} /> : <span className={`block ${rest.className ?? ''}`} />
}
