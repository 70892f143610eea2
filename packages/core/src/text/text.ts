/** Bytes of a list to lines of text, whatever wrote them. */
import { textDecoder } from './decoder.ts'

/** What a file is if it is not text, by its first bytes; null for text. */
export function notText(bytes: Uint8Array): string | null {
  const head = String.fromCharCode(...bytes.subarray(0, 12))
  if (head.startsWith('\x89PNG')) return 'a PNG picture'
  if (head.startsWith('\xff\xd8\xff')) return 'a JPEG picture'
  if (head.startsWith('%PDF')) return 'a PDF document'
  if (head.startsWith('PK\x03\x04')) return 'a zip archive'
  if (head.slice(4, 8) === 'ftyp') return 'a movie'
  const utf16 = head.startsWith('\xff\xfe') || head.startsWith('\xfe\xff') || wide(bytes) !== null
  const odd = bytes.subarray(0, 4096).filter((b) => b === 0 || (b < 32 && b !== 9 && b !== 10 && b !== 12 && b !== 13 && b !== 26)).length
  return !utf16 && odd > 0 ? 'not text' : null
}

/** Which byte of each pair is nought, as in UTF-16 without a mark: Latin text has it in nearly every pair. */
function wide(bytes: Uint8Array): 'utf-16le' | 'utf-16be' | null {
  const n = Math.min(bytes.length, 4096) & ~1
  if (n < 8) return null
  let [even, odd] = [0, 0]
  for (let i = 0; i < n; i += 2) {
    if (bytes[i] === 0) even++
    if (bytes[i + 1] === 0) odd++
  }
  return odd > n * 0.4 && even === 0 ? 'utf-16le' : even > n * 0.4 && odd === 0 ? 'utf-16be' : null
}

/** Text of a list: UTF-8 (with or without mark), UTF-16 by its mark or its noughts, else Latin-1 as Windows has it. */
export function decodeText(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return textDecoder('utf-16le').decode(bytes)
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return textDecoder('utf-16be').decode(bytes)
  const pairs = wide(bytes)
  if (pairs) return textDecoder(pairs).decode(bytes)
  try {
    return textDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    // As a stream: without, some engines take the Windows signs of 0x80 to 0x9f for control characters.
    return textDecoder('windows-1252').decode(bytes, { stream: true })
  }
}

/**
 * Lines without their ends; CR LF, LF, CR and mixtures of them end a line. Ctrl-Z ends the text, as in old lists, unless what
 * follows it looks like events.
 */
export function linesOf(text: string): string[] {
  const end = text.indexOf('\u001a')
  const kept = end < 0 ? text : /[\r\n][ \t]*\d{1,8}[A-Za-z]?[ \t]+\S/.test(text.slice(end)) ? text.replaceAll('\u001a', ' ') : text.slice(0, end)
  return kept.split(/\r\n|\n|\r/)
}
