/** What is said of a link above its candidates, without saying twice what stands below. */
import type { LinkRow } from '@naranja/contract'

type Evidence = LinkRow['candidates'][number]['evidence'][number]

/** What of a reason does not stand among the evidence of a candidate anyway; empty where all of it does. */
export function untold(reason: string, evidence: readonly Evidence[]): string {
  const plain = (s: string) => s.trim().replace(/\.$/, '').toLowerCase()
  const known = new Set(evidence.flatMap((e) => e.text.split('; ').map(plain)))
  const rest = reason.split('; ').filter((part) => !known.has(plain(part)))
  const text = rest.join('; ').trim()
  return text === '' ? '' : `${text[0]?.toUpperCase()}${text.slice(1).replace(/\.$/, '')}.`
}

/** What is said of a link above its candidates: the evidence for the one that was taken, and the places of several, stand below already. */
export function whyIn(link: LinkRow, chosen: number): string {
  if (link.state === 'several') return link.reason.replace(/: .*/, '.')
  const candidate = link.candidates[chosen]
  const alone = (link.state === 'certain' || link.state === 'likely') && chosen === 0
  return alone && candidate ? untold(link.reason, candidate.evidence) : link.reason
}
