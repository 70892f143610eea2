/** What the lines below an event say of it: names, files, reels, colour, levels, markers. */
import type { Cdl } from '../look/index.ts'

export type Remark =
  | { readonly kind: Named; readonly value: string }
  /** Slope, offset and power of red, green and blue in turn. */
  | { readonly kind: 'sop'; readonly value: Omit<Cdl, 'saturation'> }
  | { readonly kind: 'saturation'; readonly value: number }
  | { readonly kind: 'marker'; readonly at: string; readonly colour: string | null; readonly text: string }
  | { readonly kind: 'level'; readonly at: string; readonly db: number }
  | { readonly kind: 'speed'; readonly reel: string; readonly rate: string }
  | { readonly kind: 'channels'; readonly tracks: readonly string[] }
  | { readonly kind: 'split'; readonly medium: 'picture' | 'sound'; readonly delay: string }
  /** Looks like one of these and is none: what is wrong with it. */
  | { readonly kind: 'bad'; readonly code: string; readonly text: string }

type Named = 'from-name' | 'to-name' | 'key-name' | 'source-file' | 'reel'
const keys = new Map<string, Named>(
  Object.entries({
    'FROM CLIP NAME': 'from-name',
    'CLIP NAME': 'from-name',
    'TO CLIP NAME': 'to-name',
    'KEY CLIP NAME': 'key-name',
    'SOURCE FILE': 'source-file',
    'SOURCE FILE NAME': 'source-file',
    'SOURCE FILE PATH': 'source-file',
    REEL: 'reel',
    'REEL NAME': 'reel',
    'SOURCE REEL': 'reel',
    TAPE: 'reel',
    'TAPE NAME': 'reel',
  }),
)
const triple = String.raw`\(\s*(\S+)\s+(\S+)\s+(\S+)\s*\)`
const sopForm = new RegExp(String.raw`^\*?\s*ASC_SOP\b[:\s]*${triple}\s*${triple}\s*${triple}`, 'i')
const satForm = /^\*?\s*ASC_SAT\b[:\s]*(\S+)/i
const markerForm = /^\*\s*(?:LOC|MARKER)\s*:\s*(\S+)\s*(.*)$/i
const colourForm = /^(RED|GREEN|BLUE|CYAN|MAGENTA|YELLOW|ORANGE|PURPLE|PINK|WHITE|BLACK)(?=\s|$)/
const levelForm = /^\*\s*AUDIO LEVEL AT\s+(\S+)\s+IS\s+(\S+)\s*DB\b/i
const splitForm = /^SPLIT\s*:\s*(AUDIO|VIDEO)\s+DELAY\s*=?\s*(\S+)/i

const plainKey = (key: string): string =>
  key
    .toUpperCase()
    .replace(/_/g, ' ')
    .replace(/\s+IS$/, '')

const rateForm = /^[+-]?(\d+([.,]\d*)?|[.,]\d+)-?$/
/**
 * A motion line: M2, reel, frames a second, timecode. The sign may stand apart from its number or behind it, the decimals behind a comma, and the reel or
 * the timecode may be left out.
 */
function speedRemark(line: string): Remark {
  const words = line.trim().split(/\s+/).slice(1)
  if (/^\(?[+-]?\d{1,2}[:;.]\d{2}[:;.]\d{2}[:;.,]\d{2,3}\)?$/.test(words.at(-1) ?? '')) words.pop()
  const written = words.pop()?.replace(/^\((.*)\)$/, '$1') ?? ''
  if (!rateForm.test(written)) return { kind: 'bad', code: 'speed', text: 'The speed needs a reel, frames a second and a timecode' }
  const sign = /^[+-]$/.test(words.at(-1) ?? '') ? words.pop() : ''
  const amount = written.replace(/[+-]/g, '').replace(',', '.')
  return { kind: 'speed', reel: words.join(' '), rate: `${sign === '-' || written.includes('-') ? '-' : ''}${amount}` }
}

/**
 * What one line says; null for remarks that nothing here depends on. ASC_SOP and ASC_SAT as the ASC CDL 1.2 carries them in
 * lists: slope and saturation at least 0, power above 0.
 */
export function remarkOf(line: string): Remark | null {
  if (line.startsWith('*')) {
    const colon = line.indexOf(':')
    const key = colon > 0 && colon < 30 ? line.slice(1, colon).trim() : ''
    const kind = keys.get(key) ?? keys.get(plainKey(key))
    if (kind) {
      const value = line.slice(colon + 1).trim()
      return value ? { kind, value } : null
    }
  }
  const head = line.slice(0, 20).toUpperCase()
  if (head.startsWith('M2')) {
    return speedRemark(line)
  }
  if (head.startsWith('AUD') && /^AUD(\s+\d{1,2})+$/i.test(line)) return { kind: 'channels', tracks: (line.match(/\d+/g) ?? []).map((n) => `A${Number(n)}`) }
  if (head.startsWith('SPLIT')) {
    const m = splitForm.exec(line)
    return m && { kind: 'split', medium: /^A/i.test(m[1] ?? '') ? 'sound' : 'picture', delay: m[2] ?? '' }
  }
  if (head.includes('ASC_SOP')) {
    const n = sopForm.exec(line)?.slice(1).map(Number)
    const [slope, offset, power] = [n?.slice(0, 3), n?.slice(3, 6), n?.slice(6, 9)]
    if (!slope || !offset || !power || !n?.every(Number.isFinite))
      return { kind: 'bad', code: 'cdl', text: 'ASC_SOP needs three times three numbers in brackets' }
    if (slope.some((v) => v < 0) || power.some((v) => v <= 0)) return { kind: 'bad', code: 'cdl', text: 'A slope below 0, or a power that is not above 0' }
    return { kind: 'sop', value: { slope, offset, power } as unknown as Omit<Cdl, 'saturation'> }
  }
  if (head.includes('ASC_SAT')) {
    const n = Number(satForm.exec(line)?.[1])
    return Number.isFinite(n) && n >= 0 ? { kind: 'saturation', value: n } : { kind: 'bad', code: 'cdl', text: 'ASC_SAT needs a number of at least 0' }
  }
  if (!line.startsWith('*')) return null
  const marker = markerForm.exec(line)
  if (marker) {
    const rest = marker[2] ?? ''
    const colour = colourForm.exec(rest)?.[1] ?? null
    return { kind: 'marker', at: marker[1] ?? '', colour, text: rest.slice(colour?.length ?? 0).trim() }
  }
  const level = levelForm.exec(line)
  if (!level) return null
  const db = Number(level[2])
  return Number.isFinite(db) ? { kind: 'level', at: level[1] ?? '', db } : { kind: 'bad', code: 'level', text: 'The level is not a number' }
}
