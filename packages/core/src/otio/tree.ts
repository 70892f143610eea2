/** The tree of a timeline: compositions within compositions, and what is told of each. */
import type { Rate } from '../time/index.ts'
import type { JsonObject, JsonValue } from './json.ts'
import { listOf, objectOf, rangeOf, schemaOf, textOf, timeOf } from './values.ts'

export type Medium = 'V' | 'A'
export const json = (v: JsonValue): string => JSON.stringify(v)
export const mediumOf = (track: JsonObject): Medium => (/audio|sound/i.test(textOf(track.kind) ?? '') ? 'A' : 'V')
export const isComposition = (schema: string): boolean => schema === 'Stack' || schema === 'Track' || schema === 'Timeline' || schema === 'Sequence'
export const off = (o: JsonObject): boolean => o.enabled === false
/** The tracks of a stack; what stands in it directly is a track of its own. */
export const layersOf = (stack: JsonObject): JsonObject[] =>
  listOf(stack.children).flatMap((c) => {
    const o = objectOf(c)
    return o ? [o] : []
  })
/** The stack of a timeline; other compositions are what they are. */
export const unwrap = (o: JsonObject): JsonObject => {
  if (schemaOf(o) !== 'Timeline') return o
  const tracks = objectOf(o.tracks)
  return tracks && schemaOf(tracks) !== 'Timeline' ? tracks : { OTIO_SCHEMA: 'Stack.1', children: [] }
}

/** How many tracks of picture something needs when it is laid flat. */
export function height(o: JsonObject): number {
  const inner = unwrap(o)
  const children = layersOf(inner)
  if (schemaOf(inner) === 'Stack')
    return Math.max(
      1,
      children.filter((c) => !(isComposition(schemaOf(c)) && mediumOf(c) === 'A')).reduce((n, c) => n + height(c), 0),
    )
  return schemaOf(inner) === 'Track' || schemaOf(inner) === 'Sequence' ? children.reduce((n, c) => Math.max(n, height(c)), 1) : 1
}

/** The rate that most of the file is told in: of the start, else of the first frames given at a frame rate. */
export function rateIn(timeline: JsonObject): Rate | null {
  const start = timeOf(timeline.global_start_time)?.rate
  if (start) return start
  const queue: JsonObject[] = [timeline]
  for (let i = 0; i < queue.length && i < 2000; i++) {
    const o = queue[i] as JsonObject
    const r = rangeOf(o.source_range)?.duration.rate
    if (r) return r
    queue.push(...layersOf(unwrap(o)))
  }
  return null
}
