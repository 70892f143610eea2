/** The media of a clip: what it refers to, and what a list once said of it. */
import type { JsonObject, JsonValue } from './json.ts'
import { json } from './tree.ts'
import { listOf, objectOf, schemaOf, textOf } from './values.ts'

export interface Reference {
  readonly reference: JsonObject | null
  readonly name: string | null
  readonly extra: { readonly files: readonly string[]; readonly kept: { readonly references?: string; readonly active?: string } }
}

/** The media of a clip: one reference (Clip.1) or several with the key of the active one (Clip.2). */
export function referenceOf(o: JsonObject): Reference {
  const several = objectOf(o.media_references)
  const key = textOf(o.active_media_reference_key) ?? 'DEFAULT_MEDIA'
  const all = several ? Object.entries(several) : []
  const reference = objectOf(several ? (several[key] ?? all[0]?.[1]) : o.media_reference)
  const files = all.flatMap(([, v]) => {
    const url = textOf(objectOf(v)?.target_url)
    return url && objectOf(v) !== reference ? [fileOf(url)] : []
  })
  const plain = all.length <= 1 && ['ExternalReference', 'MissingReference', ''].includes(schemaOf(reference))
  return {
    reference,
    name: textOf(reference?.name),
    extra: { files, kept: plain ? {} : { references: json(several ?? (o.media_reference as JsonValue)), active: key } },
  }
}

/** The path of a URL, percent signs undone where they are signs; anything else as it stands. */
export function fileOf(url: string): string {
  const path = url.replace(/^file:\/\/(localhost)?/i, '')
  if (!/%[0-9a-f]{2}/i.test(path)) return path
  try {
    return decodeURIComponent(path)
  } catch {
    return path
  }
}

/** The first file of a numbered sequence (ImageSequenceReference). */
export function sequenceName(o: JsonObject): string {
  const padding = typeof o.frame_zero_padding === 'number' && o.frame_zero_padding >= 0 && o.frame_zero_padding <= 12 ? o.frame_zero_padding : 0
  const first = typeof o.start_frame === 'number' && Number.isFinite(o.start_frame) ? Math.round(o.start_frame) : 0
  const base = textOf(o.target_url_base)
  return `${base ? `${fileOf(base).replace(/\/$/, '')}/` : ''}${textOf(o.name_prefix) ?? ''}${String(first).padStart(padding, '0')}${textOf(o.name_suffix) ?? ''}`
}

/** Lines that a list once carried, as OTIO's own metadata for CMX 3600 keeps them. */
export const remarksIn = (o: JsonObject): string[] =>
  listOf(objectOf(objectOf(o.metadata)?.cmx_3600)?.comments).flatMap((c) =>
    typeof c === 'string' && c.length < 2000 ? [c.startsWith('*') ? c : `* ${c}`] : [],
  )
