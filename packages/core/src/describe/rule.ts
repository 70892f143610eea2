/** Values taken from other fields, names and folders, by chips put in a row: each is a text, or a part of something known. */
import { type Field, fieldValue } from './fields.ts'

/** What a chip can read. `name` is without its extension; `folder` is the one it stands in, `above` the one around that. */
export const readable = ['name', 'folder', 'above', 'volume', 'roll', 'day', 'timecode', 'scene', 'take', 'angle', 'camera', 'reel', 'plain', 'notes'] as const
export type Readable = (typeof readable)[number]

/**
 * Which part of it. Pieces stand between signs that are neither letter nor digit (`A001_C003` has two); runs are letters or
 * digits only (`A001_C003` has four). Counted from 1, from the end where negative.
 */
export type ValuePart = { readonly kind: 'all' } | { readonly kind: 'piece' | 'run'; readonly nth: number }
export type Form = 'as-is' | 'upper' | 'lower' | 'plain-number'
export type Chip =
  | { readonly kind: 'text'; readonly text: string }
  | { readonly kind: 'value'; readonly of: Readable; readonly part: ValuePart; readonly form: Form }

export interface Derivation {
  readonly field: Field
  readonly chips: readonly Chip[]
  /** Leaves alone what is filled. */
  readonly onlyEmpty: boolean
}

export interface DescribedClip {
  readonly id: string
  readonly values: Readonly<Record<Readable, string | null>>
}

export interface Derived {
  readonly id: string
  /** Null where it stays as it is. */
  readonly value: string | null
  /** Half a sentence. */
  readonly why: string
}

const words: Readonly<Record<Readable, string>> = {
  name: 'its name',
  folder: 'its folder',
  above: 'the folder above',
  volume: 'its volume',
  roll: 'its roll',
  day: 'its day',
  timecode: 'its timecode',
  scene: 'its scene',
  take: 'its take',
  angle: 'its angle',
  camera: 'its camera',
  reel: 'its reel',
  plain: 'its plain name',
  notes: 'its notes',
}

/** The parts of a text, as chips count them. */
export const pieces = (text: string): string[] => text.split(/[^\p{L}\p{M}\p{N}]+/u).filter(Boolean)
export const runs = (text: string): string[] => text.match(/[\p{L}\p{M}]+|\p{N}+/gu) ?? []

function partOf(text: string, part: ValuePart): string | null {
  if (part.kind === 'all') return text
  const list = part.kind === 'piece' ? pieces(text) : runs(text)
  return list.at(part.nth > 0 ? part.nth - 1 : part.nth) ?? null
}

const formed = (text: string, form: Form): string => {
  if (form === 'upper') return text.toUpperCase()
  if (form === 'lower') return text.toLowerCase()
  return form === 'plain-number' ? text.replace(/(^|[^0-9])0+(?=[0-9])/g, '$1') : text
}

/** A text put together from chips; or why it cannot be, as half a sentence. */
export function chipText(
  chips: readonly Chip[],
  values: Readonly<Partial<Record<Readable, string | null>>>,
): { readonly text: string } | { readonly why: string } {
  let text = ''
  for (const c of chips) {
    if (c.kind === 'text') {
      text += c.text
      continue
    }
    const whole = values[c.of]
    if (whole === undefined || whole === null || whole === '') return { why: `${words[c.of]} is not known` }
    const part = partOf(whole, c.part)
    if (part === null) return { why: `${words[c.of]} has no such part: ${whole}` }
    text += formed(part, c.form)
  }
  return { text }
}

/** What each clip would get, in the order given. A chip that finds nothing to read says so, and the clip stays as it is. */
export function derive(clips: readonly DescribedClip[], { field, chips, onlyEmpty }: Derivation): Derived[] {
  return clips.map(({ id, values }) => {
    const before = values[field]
    if (onlyEmpty && before !== null) return { id, value: null, why: 'it is filled' }
    const made = chipText(chips, values)
    if ('why' in made) return { id, value: null, why: made.why }
    const { value, problem } = fieldValue(field, made.text)
    if (value === null) return { id, value: null, why: problem ?? 'nothing comes of it' }
    return value === before
      ? { id, value: null, why: 'it is so already' }
      : { id, value, why: [...new Set(chips.flatMap((c) => (c.kind === 'value' ? [`from ${words[c.of]}`] : [])))].join(', ') || 'as written' }
  })
}
