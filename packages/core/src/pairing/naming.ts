/** How the names of copies follow from those of their originals. */
import { stem } from '../naming/index.ts'
import type { Added } from './model.ts'

/** What was put before and after an original's name to make a copy's; null where the copy's name does not hold it. */
export function addedTo(original: string, copy: string): Added | null {
  const [o, c] = [stem(original), stem(copy)]
  const at = c.toLowerCase().indexOf(o.toLowerCase())
  return at < 0 || o === '' ? null : { before: c.slice(0, at), after: c.slice(at + o.length) }
}

/** A copy's name without what was added, as an original would be called; null where it was not added so. */
export function without(copy: string, { before, after }: Added): string | null {
  const c = stem(copy)
  const rest = c.slice(before.length, c.length - after.length)
  return rest !== '' && c.length >= before.length + after.length && c.startsWith(before) && c.endsWith(after) ? rest : null
}
