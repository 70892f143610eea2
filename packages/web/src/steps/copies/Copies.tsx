/** Edit copies: which clips have them, and making those that are missing. */
import type { ClipRow, CopyState, SpecShape } from '@naranja/contract'
import { aboutTime } from '@naranja/core/estimate'
import { useEffect, useMemo, useState } from 'react'
import { Link } from 'react-router'
import { refusal, useClipsInfiniteQuery, useEstimateQuery, useMakeCopiesMutation, useSpecsQuery, useSummaryQuery } from '../../api/index.ts'
import { useAct, useProjectId } from '../../app/hooks.ts'
import { bytes, duration, lasting, plural } from '../../ui/format.ts'
import { CopyMark, copyWords, NoticeMark } from '../../ui/marks.tsx'
import { Button, Empty, Figure, Head } from '../../ui/parts.tsx'
import { type Column, RowList } from '../../ui/RowList.tsx'
import { TargetPicker, useDefaultVolume } from '../../ui/TargetPicker.tsx'
import { UnsafeNotice } from '../originals/UnsafeNotice.tsx'

export function Copies() {
  const projectId = useProjectId()
  const { data: specs } = useSpecsQuery()
  const kinds = useMemo(() => specs?.filter((s) => s.kind === 'proxy' || s.kind === 'intermediate') ?? [], [specs])
  const clips = useClipsInfiniteQuery({ projectId, sort: 'place' })
  const { hasNextPage, isFetching, fetchNextPage } = clips
  useEffect(() => {
    if (hasNextPage && !isFetching) void fetchNextPage()
  }, [hasNextPage, isFetching, fetchNextPage])
  const rows = useMemo(() => clips.data?.pages.flatMap((p) => p.rows).filter((r) => r.hasPicture) ?? [], [clips.data])
  const [code, setCode] = useState('h264-proxy-720')
  const spec = kinds.find((s) => s.code === code)
  const none = rows.filter((r) => !r.copies.some((c) => c.state === 'checked')).length
  return (
    <>
      <Head
        title="Edit copies"
        sub={rows.length > 0 && <span>{none === 0 ? `all ${rows.length} clips have one` : `${none} of ${rows.length} clips have none`}</span>}
      />
      <UnsafeNotice />
      {clips.data && rows.length === 0 ? (
        <Empty
          title="Light copies to cut with"
          action={
            <Link to={`/p/${projectId}/originals`} className="text-ink underline">
              Add originals first
            </Link>
          }
        >
          Edit copies carry the name, timecode and reel of their originals, so that the finished edit finds its way back.
        </Empty>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_312px]">
          <States rows={rows} specs={kinds} code={code} onCode={setCode} />
          {spec && <Make key={spec.code} spec={spec} />}
        </div>
      )}
    </>
  )
}

/** A row per clip, a column per spec. */
function States({ rows, specs, code, onCode }: { rows: ClipRow[]; specs: SpecShape[]; code: string; onCode: (c: string) => void }) {
  const columns = useMemo(
    (): Column<ClipRow>[] => [
      { head: 'Clip', width: 'minmax(160px,1.3fr)', look: 'mono', cell: (r) => r.name },
      { head: 'Roll', width: '90px', look: 'text-ink-2', cell: (r) => r.roll },
      { head: 'Length', width: '80px', look: 'mono text-ink-2', cell: (r) => duration(r.frames, r.rate) },
      ...specs.map(
        (s): Column<ClipRow> => ({
          head: (
            <button
              type="button"
              aria-pressed={code === s.code}
              onClick={() => onCode(s.code)}
              className={`w-full rounded-md border px-2 py-1 text-left ${code === s.code ? 'border-ink-2 bg-raised text-ink' : 'border-line text-ink-2 hover:text-ink'}`}
            >
              {s.name}
            </button>
          ),
          width: 'minmax(120px,1fr)',
          cell: (r) => {
            const state: CopyState = r.copies.find((c) => c.spec === s.code)?.state ?? 'none'
            const tone = state === 'none' ? 'text-ink-3' : state === 'failed' || state === 'failed-check' ? 'text-pomegranate' : 'text-ink-2'
            return (
              <span className={`flex items-center gap-1.5 pl-2 ${tone}`}>
                <CopyMark state={state} /> {copyWords[state]}
              </span>
            )
          },
        }),
      ),
    ],
    [specs, code, onCode],
  )
  return (
    <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
      <RowList label="State of every clip" keys="Clips" rows={rows} id={(r) => r.id} columns={columns} />
    </div>
  )
}

/** What the spec does, what it will take, and the button. */
function Make({ spec }: { spec: SpecShape }) {
  const projectId = useProjectId()
  const volume = useDefaultVolume()
  const [target, setTarget] = useState({ volumeId: '', folder: `Edit copies/${spec.name}` })
  const place = { ...target, volumeId: target.volumeId || volume }
  const ticks = useSummaryQuery(projectId).data?.ticked ?? 0
  const [onlyTicked, setOnlyTicked] = useState(false)
  const ticked = onlyTicked && ticks > 0
  const { data: e, error } = useEstimateQuery({ projectId, spec: spec.code, ...place, ticked }, { skip: !place.volumeId })
  const [make, { isLoading }] = useMakeCopiesMutation()
  const act = useAct()
  const why = refusal(error)
  const tight = e ? e.bytes > e.free : false
  const reasons = [...new Set(e?.left.map((l) => l.reason) ?? [])].map((r) => `${e?.left.filter((l) => l.reason === r).length}: ${r}`)
  return (
    <aside aria-label={spec.name} className="flex min-h-0 flex-col gap-2 overflow-auto p-3">
      <b className="font-[650]">{spec.name}</b>
      <p className="m-0 text-ink-2">{spec.purpose} Keeps names, timecode, reel, rate and every frame.</p>
      <div>
        <Figure name="Frame">{spec.height ? `${spec.height} high at most, shape kept` : "the original's size"}</Figure>
        <Figure name="Depth">
          {spec.depth} bit {spec.chroma}
        </Figure>
        <Figure name="Sound">all channels</Figure>
        <Figure name="Wrapper">{spec.wrapper}</Figure>
      </div>
      <div className="mt-1 flex flex-col gap-2">
        <TargetPicker value={place} onChange={setTarget} />
        {ticks > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={ticked} onChange={(x) => setOnlyTicked(x.target.checked)} /> Only the{' '}
            {plural(ticks, 'ticked clip')}
          </label>
        )}
      </div>
      <div className="mt-auto flex flex-col gap-1 pt-2">
        {why && <p className="m-0 text-pomegranate">{why.message}</p>}
        {e && (
          <>
            {e.warnings.map((w) => (
              <p key={w.text} className="m-0 flex gap-2 text-ink-2">
                <span className="mt-0.5">
                  <NoticeMark severity={w.severity} />
                </span>
                {w.text}
              </p>
            ))}
            <Figure name="Clips">
              {e.clips}
              {reasons.length > 0 && <span className="block text-xs text-ink-3">left out: {reasons.join('; ')}</span>}
            </Figure>
            {e.clips > 0 && (
              <>
                <Figure name="Running time">{lasting(e.seconds)}</Figure>
                <Figure name="Space">
                  {bytes(e.bytes)} of {bytes(e.free)} free
                </Figure>
                <Figure name="Time">
                  {aboutTime(e.time)}
                  {!e.measured && <span className="block text-xs text-ink-3">a first guess; measured from then on</span>}
                </Figure>
              </>
            )}
          </>
        )}
        <Button
          main
          className="mt-1 py-2"
          disabled={!e || e.clips === 0 || tight || isLoading}
          onClick={() => void act(make({ projectId, spec: spec.code, ...place, ticked }), (s) => s.message)}
        >
          {!e ? 'Make edit copies' : e.clips === 0 ? 'No copy left to make' : `Make ${plural(e.clips, 'edit copy', 'edit copies')}`}
        </Button>
      </div>
    </aside>
  )
}
