/** How a pair is looked at: at which frames, beside which candidate, nudged by how much; and the keys of the bench. */
import { useEffect, useState } from 'react'

export type At = 'first' | 'middle' | 'last'

export interface Look {
  /** The frame of the event, where not all three are seen at once. */
  readonly at: At
  readonly three: boolean
  readonly see: (at: At | 'all') => void
  /** Which candidate, from 0. */
  readonly chosen: number
  readonly choose: (candidate: number) => void
  /** Frames by which the candidate is looked at later than its evidence says. */
  readonly nudge: number
  readonly nudgeTo: (frames: number) => void
  /** The event's pictures are looked for among the originals. */
  readonly finding: boolean
  readonly find: () => void
}

/** Another event begins with its best candidate, of `candidates`; another candidate is looked at as its evidence says. */
export function useLook(eventId: string | undefined, candidates: number): Look {
  const [at, setAt] = useState<At>('middle')
  const [three, setThree] = useState(false)
  const [wanted, choose] = useState(0)
  const [nudge, nudgeTo] = useState(0)
  const [finding, setFinding] = useState(false)
  const chosen = Math.min(wanted, Math.max(0, candidates - 1))
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another event
  useEffect(() => {
    choose(0)
    setFinding(false)
  }, [eventId])
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another event or candidate
  useEffect(() => nudgeTo(0), [eventId, chosen])
  const see = (where: At | 'all') => {
    setThree(where === 'all')
    if (where !== 'all') setAt(where)
  }
  return { at, three, see, chosen, choose, nudge, nudgeTo, finding, find: () => setFinding(true) }
}

/** Keys that are meant for the bench wherever the focus is, but in fields, dialogs and on other buttons. */
export function useBenchKeys(on: Record<string, () => void>): void {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement
      if (
        e.defaultPrevented ||
        /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) ||
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        document.querySelector('[role=dialog]')
      )
        return
      // Enter presses a focused button; on a candidate it takes that candidate.
      if (e.key === 'Enter' && target.tagName === 'BUTTON' && !target.closest('[data-candidates]')) return
      const f = on[e.key]
      if (!f) return
      e.preventDefault()
      f()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [on])
}
