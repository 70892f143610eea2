/** Places on volumes, by reference: bytes of the path below the volume, base64url. */
import type { Place } from '@naranja/contract'

/** A place that a person chose, and what it is called. */
export interface Picked extends Place {
  readonly name: string
}

const bytesOf = (ref: string): Uint8Array => Uint8Array.from(atob(ref.replace(/-/g, '+').replace(/_/g, '/')), (c) => c.charCodeAt(0))
const refOf = (bytes: Uint8Array): string =>
  btoa(String.fromCharCode(...bytes))
    .replace(/\+/g, '-')
    .replace(/\//g, '_')
    .replace(/=+$/, '')

/** A place's path below its volume, as text. */
export const textOfRef = (ref: string): string => new TextDecoder().decode(bytesOf(ref))

/** Folders on the way to a place: names as they are shown, each with its own reference; none for the volume itself. */
export function trailOf(ref: string): { ref: string; name: string }[] {
  const bytes = bytesOf(ref)
  const out: { ref: string; name: string }[] = []
  for (let from = 0; from < bytes.length; ) {
    const slash = bytes.indexOf(0x2f, from)
    const end = slash < 0 ? bytes.length : slash
    out.push({ ref: refOf(bytes.subarray(0, end)), name: new TextDecoder().decode(bytes.subarray(from, end)) })
    from = end + 1
  }
  return out
}

/** What is picked, with one more place, which stands there once. */
export const withPlace = (picked: readonly Picked[], { volumeId, ref, name }: Picked): Picked[] => [
  ...picked.filter((p) => p.volumeId !== volumeId || p.ref !== ref),
  { volumeId, ref, name },
]
