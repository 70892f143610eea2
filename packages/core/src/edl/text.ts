/** Bytes of a list to lines of text, whatever wrote them. */

/** What a file is if it is not text, by its first bytes; null for text. */
export function notText(bytes: Uint8Array): string | null {
  const head = String.fromCharCode(...bytes.subarray(0, 12))
  if (head.startsWith('\x89PNG')) return 'a PNG picture'
  if (head.startsWith('\xff\xd8\xff')) return 'a JPEG picture'
  if (head.startsWith('%PDF')) return 'a PDF document'
  if (head.startsWith('PK\x03\x04')) return 'a zip archive'
  if (head.slice(4, 8) === 'ftyp') return 'a movie'
  const utf16 = head.startsWith('\xff\xfe') || head.startsWith('\xfe\xff')
  const odd = bytes.subarray(0, 4096).filter((b) => b === 0 || (b < 32 && b !== 9 && b !== 10 && b !== 12 && b !== 13 && b !== 26)).length
  return !utf16 && odd > 0 ? 'not text' : null
}

/** Text of a list: UTF-8 (with or without mark), UTF-16 by its mark, else Latin-1. */
export function decodeText(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes)
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return new TextDecoder('utf-16be').decode(bytes)
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    return new TextDecoder('latin1').decode(bytes)
  }
}

/** Lines without their ends; CR LF, LF, CR and mixtures of them end a line, Ctrl-Z ends the text. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: Ctrl-Z is an end-of-file mark in old lists
export const linesOf = (text: string): string[] => text.replace(/\x1a[\s\S]*$/, '').split(/\r\n|\n|\r/)
