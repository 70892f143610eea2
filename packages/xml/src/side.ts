/** Files beside a clip that describe it: XMP (ISO 16684-1), iXML, and small tables of names and values. */
import { describable, type Field, fieldValue } from '@naranja/core/describe'
import { XMLParser } from 'fast-xml-parser'
import { readXml } from './read/index.ts'

export type SideFileFacts = Partial<Record<Field, string>>

/** Names of elements and attributes, without their prefixes, and what they tell: XMP's dynamic media and Dublin Core, iXML. */
const names: Readonly<Record<string, Field>> = {
  scene: 'scene',
  takeNumber: 'take',
  cameraAngle: 'angle',
  cameraLabel: 'camera',
  tapeName: 'reel',
  shotName: 'plain',
  title: 'plain',
  logComment: 'notes',
  description: 'notes',
  SCENE: 'scene',
  TAKE: 'take',
  TAPE: 'reel',
  NOTE: 'notes',
}

const parser = new XMLParser({ removeNSPrefix: true, ignoreAttributes: false, attributeNamePrefix: '', parseTagValue: false, parseAttributeValue: false })

/** Text of an element: its own, or that of the first thing in it (XMP keeps titles as lists of languages). */
function textOf(node: unknown): string | null {
  if (typeof node === 'string') return node
  if (Array.isArray(node)) return textOf(node[0])
  if (typeof node !== 'object' || node === null) return null
  const own = node as Record<string, unknown>
  return '#text' in own ? textOf(own['#text']) : textOf(own.Alt ?? own.Seq ?? own.Bag ?? own.li ?? null)
}

function fromXml(text: string): SideFileFacts {
  const read = readXml(parser, text)
  if ('fault' in read) return {}
  const tree = read.root as Record<string, unknown>
  // Other XML may use the same words for other things.
  if (!('xmpmeta' in tree || 'RDF' in tree || 'BWFXML' in tree)) return {}
  const out: SideFileFacts = {}
  const visit = (node: unknown, depth: number): void => {
    if (depth > 40 || typeof node !== 'object' || node === null) return
    for (const [key, inner] of Object.entries(node)) {
      const field = Object.hasOwn(names, key) ? names[key] : undefined
      const value = field ? fieldValue(field, textOf(inner)).value : null
      if (field && value !== null) out[field] ??= value
      else visit(inner, depth + 1)
    }
  }
  visit(tree, 0)
  return out
}

/**
 * What a side file tells of its clip: XML by what XMP and iXML call things; lines `Scene: 12` or `Scene,12` otherwise. Empty
 * where it tells nothing that is known.
 */
export function readSideFile(name: string, text: string): SideFileFacts {
  if (/\.(xml|xmp)$/i.test(name)) return fromXml(text)
  if (!/\.(txt|csv|tsv)$/i.test(name)) return {}
  const out: SideFileFacts = {}
  for (const line of text.split(/\r\n|\n|\r/).slice(0, 200)) {
    const t = /^\s*"?(scene|take|angle|camera|reel|plain name|notes?)"?\s*[:=,;\t]\s*"?(.*?)"?\s*$/i.exec(line)
    const key = t?.[1]?.toLowerCase()
    const field = describable.find((f) => f === key || (f === 'plain' && key === 'plain name') || (f === 'notes' && key === 'note'))
    const value = field ? fieldValue(field, t?.[2] ?? '').value : null
    if (field && value !== null) out[field] ??= value
  }
  return out
}
