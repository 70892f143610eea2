/** XML that others wrote: read, or what is wrong with it. It never throws. */
import { type XMLParser, XMLValidator } from 'fast-xml-parser'

/** The document as `parser` sees it, or a sentence of what is wrong and its line (from 1). */
export function readXml(parser: XMLParser, text: string): { readonly root: unknown } | { readonly fault: string; readonly line: number } {
  const valid = XMLValidator.validate(text)
  if (valid !== true) return { fault: valid.err.msg, line: valid.err.line }
  try {
    return { root: parser.parse(text) }
  } catch (e) {
    // Well-formed, but with names or entities that the reader refuses.
    return { fault: e instanceof Error ? e.message : String(e), line: 1 }
  }
}
