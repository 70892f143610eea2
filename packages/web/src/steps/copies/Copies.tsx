/** Edit copies: which clips have them, making those that are missing, and what of the picture they show. */
import type { ClipRow, CopyState, SpecRow } from '@naranja/contract'
import { safeFileName } from '@naranja/core/naming'
import { useCallback, useEffect, useMemo, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api } from '../../api/index.ts'
import { chooseSpecs, useAppDispatch, useAppSelector, useProjectId } from '../../state/index.ts'
import { Button, Choice, type Column, CopyMark, copySaid, duration, Empty, Head, isMade, Loading, plural, RowList } from '../../ui/index.ts'
import { isLightClip } from '../clip/index.ts'
import { UnsafeNotice } from '../originals/index.ts'
import { WhatFailed } from '../../pieces/index.ts'
import { Arrivals } from './Arrivals.tsx'
import { Compare } from './Compare.tsx'
import { Elsewhere } from './Elsewhere.tsx'
import { Framing } from './Framing.tsx'
import { useTarget } from '../../places/index.ts'
import { Make } from './Make.tsx'
import { Trial } from './Trial.tsx'
import { RenameDialog } from './RenameDialog.tsx'

const parts = [
  ['state', 'State'],
  ['trial', 'Trial'],
  ['compare', 'Compare'],
  ['framing', 'Framing'],
  ['elsewhere', 'Made elsewhere'],
  ['arrivals', 'Arrivals'],
] as const
type CopiesTab = (typeof parts)[number][0]

export function Copies() {
  const projectId = useProjectId()
  const { part: asked } = useParams()
  const part: CopiesTab = parts.find(([p]) => p === asked)?.[0] ?? 'state'
  const navigate = useNavigate()
  const { data: specs } = api.useSpecsQuery({ projectId })
  const clips = api.useClipsInfiniteQuery({ projectId, sort: 'place' })
  const { hasNextPage, isFetching, fetchNextPage } = clips
  useEffect(() => {
    if (hasNextPage && !isFetching) void fetchNextPage()
  }, [hasNextPage, isFetching, fetchNextPage])
  const rows = useMemo(() => clips.data?.pages.flatMap((p) => p.rows).filter((r) => r.hasPicture && !isLightClip(r)) ?? [], [clips.data])
  const chosen = useAppSelector((s) => s.face.specs)
  const dispatch = useAppDispatch()
  const setChosen = useCallback((next: readonly string[]) => dispatch(chooseSpecs([...next])), [dispatch])
  const codes = useMemo(() => {
    const there = chosen.filter((c) => specs?.some((s) => s.code === c))
    return there.length ? there : (specs?.filter((s) => s.isDefault).map((s) => s.code) ?? [])
  }, [chosen, specs])
  const [renaming, setRenaming] = useState(false)
  const name = specs?.find((s) => s.code === codes[0])?.name
  // Each spec has a folder of its own below the one that is used for all of them.
  const fresh = codes.length === 1 && name ? `Edit copies/${safeFileName(name)}` : 'Edit copies'
  const target = useTarget('copies', fresh, { others: specs?.map((s) => safeFileName(s.name)) ?? [] })
  const none = rows.filter((r) => !r.copies.some((c) => isMade(c.state))).length
  return (
    <>
      <Head
        title="Edit copies"
        sub={rows.length > 0 && <span>{none === 0 ? `all ${rows.length} clips have one` : `${none} of ${rows.length} clips have none`}</span>}
      >
        {part === 'state' && (specs?.some((s) => s.copies > 0) ?? false) && <Button onClick={() => setRenaming(true)}>Rename …</Button>}
        <Choice label="Part" value={part} onChange={(p) => void navigate(`/p/${projectId}/copies${p === 'state' ? '' : `/${p}`}`)} options={parts} />
      </Head>
      <UnsafeNotice />
      <WhatFailed kinds={['copy']} />
      {renaming && specs && <RenameDialog specs={specs} onClose={() => setRenaming(false)} />}
      {part === 'arrivals' ? (
        <Arrivals />
      ) : !clips.data || clips.data.pages.length === 0 ? (
        <Loading what="the clips" />
      ) : rows.length === 0 && !clips.hasNextPage ? (
        <Empty
          guide="/guide/edit-copies"
          title="Light copies to cut with"
          action={
            <Link to={`/p/${projectId}/originals`} className="text-ink underline">
              Add originals first
            </Link>
          }
        >
          Edit copies carry the name, timecode and reel of their originals, so that the finished edit finds its way back.
        </Empty>
      ) : part === 'framing' ? (
        <Framing rows={rows} />
      ) : part === 'compare' ? (
        <Compare rows={rows} />
      ) : part === 'elsewhere' ? (
        <Elsewhere rows={rows} />
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_312px]">
          {part === 'trial' ? (
            <Trial rows={rows} specs={specs ?? []} codes={codes} onCodes={setChosen} target={target} />
          ) : (
            <States rows={rows} specs={specs ?? []} codes={codes} onCodes={setChosen} />
          )}
          {specs && codes.length > 0 && (
            <Make
              key={codes.join()}
              target={target}
              specs={specs.filter((s) => codes.includes(s.code))}
              others={specs.filter((s) => !codes.includes(s.code))}
              onAlso={(c) => setChosen([...codes, c])}
              onSpec={(c) => setChosen([c])}
            />
          )}
        </div>
      )}
    </>
  )
}

/** The copy of a whole clip; without one, those of its parts. */
function CopyCell({ copies, alone }: { copies: ClipRow['copies']; alone: boolean }) {
  const one = copies.find((c) => !c.part) ?? copies[0]
  const state: CopyState = one?.state ?? 'none'
  const tone = state === 'none' ? 'text-ink-3' : state === 'failed' || state === 'failed-check' ? 'text-pomegranate' : 'text-ink-2'
  return (
    <span className={`flex items-center gap-1.5 pl-2 ${tone}`}>
      <CopyMark state={state} away={one?.away ?? false} /> {copySaid(one, alone)}
      {one && one.damagedFrom !== null ? (
        <span className="text-lemon" title="Its original is damaged there">
          to frame {one.damagedFrom - 1}
        </span>
      ) : (
        one?.part && <span className="text-ink-3">{plural(copies.length, 'range')}</span>
      )}
    </span>
  )
}

/** A row per clip, a column per spec. */
function States({ rows, specs, codes, onCodes }: { rows: ClipRow[]; specs: SpecRow[]; codes: readonly string[]; onCodes: (c: string[]) => void }) {
  const others = rows.some((r) => r.copies.some((c) => c.spec.startsWith('elsewhere-')))
  // Specs that this project has copies by, and those that are chosen now.
  const used = useMemo(() => specs.filter((s) => codes.includes(s.code) || rows.some((r) => r.copies.some((c) => c.spec === s.code))), [specs, codes, rows])
  const columns = useMemo((): Column<ClipRow>[] => {
    const take = (code: string, also: boolean) => {
      if (!also) return onCodes([code])
      const next = codes.includes(code) ? codes.filter((c) => c !== code) : [...codes, code]
      onCodes((next.length ? next : [code]).slice(-4))
    }
    return [
      { head: 'Clip', width: 'minmax(220px,1.6fr)', look: 'mono', cell: (r) => <span className="overflow-hidden text-ellipsis">{r.name}</span> },
      { head: 'Roll', width: '104px', look: 'text-ink-2', cell: (r) => r.roll },
      { head: 'Length', width: '80px', look: 'mono text-ink-2', cell: (r) => duration(r.frames, r.rate) },
      ...used.map(
        (s): Column<ClipRow> => ({
          head: (
            <button
              type="button"
              aria-pressed={codes.includes(s.code)}
              title="With Shift: this one too, from one decode"
              onClick={(e) => take(s.code, e.shiftKey)}
              className={`w-full overflow-hidden rounded-md border px-2 py-1 text-left text-ellipsis ${codes.includes(s.code) ? 'border-ink-2 bg-raised text-ink' : 'border-line text-ink-2 hover:text-ink'}`}
            >
              {s.name}
            </button>
          ),
          width: 'minmax(104px,1fr)',
          cell: (r) => {
            return <CopyCell copies={r.copies.filter((c) => c.spec === s.code)} alone={r.away} />
          },
        }),
      ),
      ...(others
        ? [
            {
              head: 'Made elsewhere',
              width: 'minmax(104px,1fr)',
              cell: (r: ClipRow) => <CopyCell copies={r.copies.filter((c) => c.spec.startsWith('elsewhere-'))} alone={r.away} />,
            },
          ]
        : []),
    ]
  }, [used, codes, onCodes, others])
  return (
    // Many specs are wider than the page: the table moves sideways, names and panel stay.
    <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
      <RowList
        label="State of every clip"
        keys="Clips"
        rows={rows}
        id={(r) => r.id}
        columns={columns}
        minWidth={424 + (used.length + (others ? 1 : 0)) * 124}
      />
    </div>
  )
}
