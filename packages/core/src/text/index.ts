/** Bytes as text and lines, whatever wrote them; what is no text is told. */
export { textDecoder } from './decoder.ts'
export { decodeText, linesOf, notText } from './text.ts'
