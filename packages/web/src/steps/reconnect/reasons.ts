/** Why a link is what it is, for telling those that are so for the same reason, and for not saying twice what stands below. */
import type { LinkRow } from '@naranja/contract'
import { telling } from '@naranja/core/reconnect'

type Evidence = LinkRow['candidates'][number]['evidence'][number]

const said = (e: Evidence): string =>
  e.ofNone
    ? 'a name that no original bears'
    : e.agreement === 'contradicts'
      ? `another ${e.kind}`
      : e.agreement === 'bent'
        ? `a bent ${e.kind}`
        : e.agreement === 'missing'
          ? `no ${e.kind}`
          : `a ${e.kind} that says little`

/** What keeps a likely event from being certain, in few words; the same for all that are likely for the same reason. */
export function doubtOf(link: LinkRow): string {
  const [best] = link.candidates
  if (best?.evidence.some((e) => e.kind === 'picture')) return 'its pictures told it'
  const doubts = (best?.evidence ?? []).filter((e) => telling.has(e.kind) && (e.agreement !== 'agrees' || e.weak)).map(said)
  return [...(link.candidates.length > 1 ? ['other candidates'] : []), ...doubts].join(', ')
}

/** What of a reason does not stand among the evidence of a candidate anyway; empty where all of it does. */
export function untold(reason: string, evidence: readonly Evidence[]): string {
  const plain = (s: string) => s.trim().replace(/\.$/, '').toLowerCase()
  const known = new Set(evidence.flatMap((e) => e.text.split('; ').map(plain)))
  const rest = reason.split('; ').filter((part) => !known.has(plain(part)))
  const text = rest.join('; ').trim()
  return text === '' ? '' : `${text[0]?.toUpperCase()}${text.slice(1).replace(/\.$/, '')}.`
}
