/** XML as hash lists use it: names may hold anything a file name may, line ends and quotes included. */
import { XMLBuilder, XMLParser } from 'fast-xml-parser'
import { readXml } from '../read/index.ts'

/** XML 1.0, 2.2: characters that no document can hold, however they are written. */
// biome-ignore lint/suspicious/noControlCharactersInRegex: these are what is looked for
const impossible = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/

/** Whether a text can stand in an XML document at all. */
export const fitsXml = (text: string): boolean => !impossible.test(text)

const references: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' }
/** Line ends and tabs as references too: readers turn bare ones into others (XML 1.0, 2.11 and 3.3.3). */
export const escapeXml = (text: string): string => text.replace(/[&<>"'\r\n\t]/g, (c) => references[c] ?? `&#${c.charCodeAt(0)};`)

const plain: Record<string, string> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" }
export const unescapeXml = (text: string): string =>
  text.replace(/&(?:#x([0-9a-f]+)|#(\d+)|(amp|lt|gt|quot|apos));/gi, (all, hex?: string, decimal?: string, name?: string) => {
    if (name) return plain[name.toLowerCase()] ?? all
    const code = hex ? Number.parseInt(hex, 16) : Number(decimal)
    return code <= 0x10ffff ? String.fromCodePoint(code) : all
  })

/** An element: its attributes under `@name`, its text under `#text`, its children under their names, always as lists. */
export interface Element {
  readonly [name: string]: readonly Element[] | string | undefined
}

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: '#text',
  alwaysCreateTextNode: true,
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  processEntities: false,
  removeNSPrefix: true,
  isArray: (_name, _path, _leaf, attribute) => !attribute,
})

/** The document, or the sentence of what is wrong with it and its line. */
export function parseXml(text: string): Element | { readonly fault: string; readonly line: number } {
  const read = readXml(parser, text)
  return 'fault' in read ? read : (read.root as Element)
}

export const children = (e: Element | undefined, name: string): readonly Element[] => {
  const c = e?.[name]
  return Array.isArray(c) ? (c as readonly Element[]) : []
}
export const child = (e: Element | undefined, name: string): Element | undefined => children(e, name)[0]
export const textOf = (e: Element | undefined): string => unescapeXml(typeof e?.['#text'] === 'string' ? (e['#text'] as string) : '')
export const attribute = (e: Element | undefined, name: string): string | null => {
  const a = e?.[`@${name}`]
  return typeof a === 'string' ? unescapeXml(a) : null
}

const builder = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: '#text',
  format: true,
  indentBy: '  ',
  processEntities: false,
  suppressEmptyNode: true,
})
/** A document of `root`, whose texts are escaped already. */
export const buildXml = (root: object): string => `<?xml version="1.0" encoding="UTF-8"?>\n${builder.build(root) as string}`
