/** What can be viewed, and which comes next by one key. */
import type { Summary, Viewing } from '@naranja/contract'

export const viewings: readonly Viewing[] = ['originals', 'intermediates', 'proxies']
const kindOf: Partial<Record<Viewing, Summary['copyKinds'][number]>> = { intermediates: 'intermediate', proxies: 'proxy' }

/** The next of what there is in the project: kinds of which nobody has a copy are skipped. */
export function nextViewing(now: Viewing, kinds: Summary['copyKinds']): Viewing {
  const at = viewings.indexOf(now)
  const order = [...viewings.slice(at + 1), ...viewings.slice(0, at + 1)]
  return order.find((v) => !kindOf[v] || kinds.includes(kindOf[v])) ?? now
}
