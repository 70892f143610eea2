/** What is said of a link above its candidates, without saying twice what stands below. */
import type { LinkRow } from '@naranja/contract'

/** The evidence for the one that was taken, and the places of several, stand below already; beside another candidate all is said. */
export function whyIn(link: Pick<LinkRow, 'state' | 'reason' | 'beyond'>, chosen: number): string {
  const below = link.state === 'several' || ((link.state === 'certain' || link.state === 'likely') && chosen === 0)
  return below ? link.beyond : link.reason
}
