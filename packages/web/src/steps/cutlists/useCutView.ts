/** What every picture of a cut shares: its events, links, the frame looked at, and the pictures of events. */
import { addressOf, type CutDetail, type CutRow, type EventShape, type LinkRow, routes, type Viewing } from '@naranja/contract'
import { isOpen } from '@naranja/core/reconnect'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { selectEvent, useAppDispatch, useAppSelector } from '../../state/index.ts'

export interface CutView {
  readonly cut: CutDetail | undefined
  /** The links are being asked for again: what is known may not hold any more. */
  readonly counting: boolean
  readonly links: readonly LinkRow[]
  readonly byId: ReadonlyMap<string, LinkRow>
  readonly frame: number
  readonly setFrame: (f: number) => void
  readonly event: EventShape | undefined
  readonly select: (e: EventShape | undefined) => void
  readonly thumb: (e: EventShape) => string | null
  /** The next or last open event from the selected one on, of those within. */
  readonly nextOpen: (by: 1 | -1, within?: ReadonlySet<string>) => EventShape | undefined
}

/** Whether a cut has pictures of its own: a movie of the edit, or the light copies it was cut from. */
export const hasPictures = (cut: Pick<CutRow, 'reference' | 'copies'>): boolean => cut.reference !== null || cut.copies !== null
/** The address of the edit's own picture of an event, at a frame counted from its first. */
export const editStill = (cutId: string, eventId: string, k: number, width: number): string =>
  addressOf(routes.editStill, { cutId, event: eventId, frame: k, width })

export const openLink = (l: LinkRow | undefined): boolean => l !== undefined && isOpen(l)

export function useCutView(row: CutRow | undefined, viewing: Viewing): CutView {
  const { currentData: cut } = api.useCutQuery(row?.id ?? '', { skip: !row })
  const { currentData: links, isFetching } = api.useLinksQuery(row?.id ?? '', { skip: !row })
  const dispatch = useAppDispatch()
  const eventId = useAppSelector((s) => s.face.eventId)
  const [frame, setFrame] = useState(0)
  const mine = cut && cut.id === row?.id ? cut : undefined
  const event = mine?.events.find((e) => e.id === eventId)
  const byId = useMemo(() => new Map((links ?? []).map((l) => [l.eventId, l])), [links])
  // Coming from another picture of the cut, the selected event is in sight.
  useEffect(() => {
    const e = mine?.events.find((x) => x.id === eventId)
    if (e && mine)
      setFrame((f) =>
        f >= e.recordIn - mine.start && f < e.recordOut - mine.start
          ? f
          : e.recordIn - mine.start + Math.min(e.transition.frames, e.recordOut - e.recordIn - 1),
      )
  }, [mine, eventId])
  const select = useCallback((e: EventShape | undefined) => dispatch(selectEvent(e?.id ?? null)), [dispatch])
  const thumb = useCallback(
    (e: EventShape): string | null => {
      const l = byId.get(e.id)
      if (l?.clipId && l.range && !l.away)
        return addressOf(routes.clipStill, { clipId: l.clipId, frame: Math.max(0, Math.floor((l.range.in + l.range.out) / 2)), width: 160, viewing })
      return mine && hasPictures(mine) && e.kind !== 'black' ? editStill(mine.id, e.id, Math.floor((e.recordOut - e.recordIn) / 2), 160) : null
    },
    [byId, mine, viewing],
  )
  const nextOpen = useCallback(
    (by: 1 | -1, within?: ReadonlySet<string>) => {
      const list = mine?.events ?? []
      const at = list.findIndex((e) => e.id === eventId)
      for (let i = 1; i <= list.length; i++) {
        const e = list[(((at + i * by) % list.length) + list.length) % list.length]
        if (e && openLink(byId.get(e.id)) && (!within || within.has(e.id))) return e
      }
      return undefined
    },
    [mine, byId, eventId],
  )
  return { cut: mine, counting: isFetching, links: links ?? [], byId, frame, setFrame, event, select, thumb, nextOpen }
}
