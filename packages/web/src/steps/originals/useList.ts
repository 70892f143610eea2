/** The list as it is seen: its views, what it is narrowed to, and its rows. */
import type { ClipCondition, DescribedNow, DescribeEdit, ListViews } from '@naranja/contract'
import { useEffect, useMemo } from 'react'
import { useSearchParams } from 'react-router'
import { api } from '../../api/index.ts'
import { selectClip, useAct, useAppDispatch, useAppSelector, useProjectId } from '../../state/index.ts'
import { firstView } from './columns.tsx'

const ways = ['list', 'chart', 'rolls'] as const

/** How originals are seen stands in the address: a link leads to the same list. */
export function useAddress() {
  const [params, setParams] = useSearchParams()
  const set = (key: 'view' | 'notice', value: string) => {
    const next = new URLSearchParams(params)
    if (value && value !== 'list') next.set(key, value)
    else next.delete(key)
    setParams(next)
  }
  return {
    way: ways.find((w) => w === params.get('view')) ?? 'list',
    setWay: (way: (typeof ways)[number]) => set('view', way),
    notice: params.get('notice') ?? '',
    setNotice: (code: string) => set('notice', code),
  }
}

/** The order that keeps a group's clips together. */
const groupSort = { roll: 'place', day: 'byDay', camera: 'byCamera', none: 'place' } as const

/** The views that are kept of a project, and the one that is seen. */
export function useViews() {
  const projectId = useProjectId()
  const act = useAct()
  const { data: kept } = api.useListViewsQuery(projectId)
  const [keep] = api.useKeepListViewsMutation()
  const views: ListViews = kept ?? { now: firstView, kept: [], version: 0 }
  const setViews = (v: ListViews) =>
    void act(keep({ projectId, ...v }), undefined, undefined, (now: ListViews) => keep({ projectId, ...v, version: now.version }))
  return { views, setViews }
}

/** The clips of a view, those alone that a text and a notice name. Something is always looked at. */
export function useRows(view: ListViews['now'], search: string, notice: string) {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const clipId = useAppSelector((s) => s.face.clipId)
  const where = useMemo((): ClipCondition[] => [...view.where, ...(notice ? [{ field: 'notice' as const, is: notice }] : [])], [view.where, notice])
  const sort = view.sort ?? groupSort[view.group]
  const clips = api.useClipsInfiniteQuery({ projectId, sort, descending: view.sort !== null && view.descending, search, where })
  const { hasNextPage, isFetching, fetchNextPage } = clips
  // Every page is fetched in turn: ten thousand rows come in a few seconds, and the list scrolls anywhere.
  useEffect(() => {
    if (hasNextPage && !isFetching) void fetchNextPage()
  }, [hasNextPage, isFetching, fetchNextPage])
  const rows = useMemo(() => clips.data?.pages.flatMap((p) => p.rows) ?? [], [clips.data])
  useEffect(() => {
    const lost = !search && where.length === 0 && !hasNextPage && !rows.some((r) => r.id === clipId)
    if (rows.length > 0 && (clipId === null || lost)) dispatch(selectClip(rows[0]?.id ?? null))
  }, [rows, clipId, dispatch, search, where, hasNextPage])
  return { rows, total: clips.data?.pages[0]?.total ?? 0, narrowed: where.length > 0 || search !== '' }
}

/** The same edits, of what stands there now. */
export const seenNow = (edits: readonly DescribeEdit[], now: readonly DescribedNow[]): DescribeEdit[] =>
  edits.map((e) => {
    const other = now.find((n) => n.clipId === e.clipId && n.field === e.field)
    return other ? { ...e, before: other.value } : e
  })
