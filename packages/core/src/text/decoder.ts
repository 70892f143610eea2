/** The text decoder of the Encoding Standard (WHATWG), which every engine has: it is neither Node's nor a page's. */

interface Decoder {
  /** The text of bytes; throws where a `fatal` one meets what is not in its encoding. `stream`: more may follow. */
  decode(bytes: Uint8Array, options?: { readonly stream?: boolean }): string
}
type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252'

const engine = globalThis as unknown as { readonly TextDecoder: new (encoding: Encoding, options?: { readonly fatal?: boolean }) => Decoder }

/** A decoder of an encoding; `fatal`: bytes that are not of it are an error instead of a sign in their place. */
export const textDecoder = (encoding: Encoding, options?: { readonly fatal?: boolean }): Decoder => new engine.TextDecoder(encoding, options)
