/** Two seconds of the hardest clip really made by some specs: the same part pixel by pixel, what each weighs and how many play at once. */
import { addressOf, type ClipRow, routes, type SpecRow, type TrialResult, type TrialSpec } from '@naranja/contract'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { AnglesChart } from '../../charts/index.ts'
import { Bar, Button, bytes, Empty, NoticeMark, perCent, Select } from '../../ui/index.ts'
import type { Target } from '../../places/index.ts'
import { anglesText, useLastTrial } from './useLastTrial.ts'

const rateText = (bits: number): string => `${bits >= 1e7 ? Math.round(bits / 1e6) : (bits / 1e6).toFixed(1)} Mbit/s`

interface Props {
  specs: readonly SpecRow[]
  /** Chosen in the panel beside it. */
  codes: readonly string[]
  onCodes: (codes: string[]) => void
  rows: readonly ClipRow[]
  /** Where the copies would go: its drive is what is measured. */
  target: Target
}

export function Trial({ specs, codes, onCodes, rows, target }: Props) {
  const projectId = useProjectId()
  const { task: last, busy, result } = useLastTrial()
  const [tried, setTried] = useState<readonly string[]>([])
  const chosen = (tried.length ? tried : [...new Set([...codes, ...specs.map((s) => s.code)])].slice(0, 2)).filter((c) => specs.some((s) => s.code === c))
  const [clipId, setClipId] = useState('')
  const [start, { isLoading }] = api.useStartTrialMutation()
  const act = useAct()
  return (
    <div className="flex min-h-0 min-w-0 flex-col gap-3 overflow-auto border-r border-line p-3">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-2">
        <fieldset className="m-0 flex min-w-0 flex-wrap items-center gap-1.5 border-0 p-0">
          <legend className="sr-only">Specs to try, three at most</legend>
          {specs.map((s) => {
            const on = chosen.includes(s.code)
            return (
              <button
                key={s.code}
                type="button"
                aria-pressed={on}
                onClick={() => setTried(on ? chosen.filter((c) => c !== s.code) : [...chosen, s.code].slice(-3))}
                className={`rounded-md border px-2 py-1 ${on ? 'border-ink-2 bg-raised text-ink' : 'border-line text-ink-2 hover:text-ink'}`}
              >
                {s.name}
              </button>
            )
          })}
        </fieldset>
        <Select label="Clip to try them on" className="max-w-[160px]" value={clipId} onChange={setClipId}>
          <option value="">the hardest clip</option>
          {rows.map((r) => (
            <option key={r.id} value={r.id}>
              {r.name}
            </option>
          ))}
        </Select>
        <Button
          disabled={busy || isLoading || chosen.length === 0 || !target.ready}
          onClick={() => target.place && void act(start({ projectId, specs: [...chosen], ...target.place, ...(clipId ? { clipId } : {}) }))}
        >
          {result ? 'Try again' : 'Try them'}
        </Button>
        {!target.place && <span className="text-ink-3">Choose where the copies go first: their drive is measured too.</span>}
      </div>
      {busy && last ? (
        <div className="m-auto flex flex-col items-center gap-3">
          <span>Two seconds are encoded and played. It takes about a minute.</span>
          <Bar share={last.total ? last.done / last.total : 0} label="Trial" className="w-[260px]" />
        </div>
      ) : last?.state === 'failed' ? (
        <p className="m-0 flex gap-2 text-pomegranate">
          <NoticeMark severity="error" /> {last.error}
        </p>
      ) : result && last ? (
        <Cards taskId={last.id} result={result} codes={codes} onCodes={onCodes} target={target} />
      ) : (
        <Empty title="Which edit copy suits this machine?" guide="/guide/edit-copies">
          Two seconds of the clip that is hardest to play are encoded with two or three specs, played, and deleted again. You see the same part of the picture
          from each, how much space each takes, and how many play at once.
        </Empty>
      )}
    </div>
  )
}

function Cards({
  taskId,
  result: r,
  codes,
  onCodes,
  target,
}: {
  taskId: string
  result: TrialResult
  codes: readonly string[]
  onCodes: (c: string[]) => void
  target: Target
}) {
  const chosen = r.specs.find((s) => codes.includes(s.spec)) ?? r.specs[0]
  return (
    <>
      <p className="m-0 text-ink-2">
        Two seconds of <span className="mono text-ink">{r.clip}</span>, encoded with each spec; the same part at 1:1. Measured on {r.machine}.
      </p>
      <div className="grid gap-3" style={{ gridTemplateColumns: `repeat(${r.specs.length + 1}, minmax(0, 1fr))` }}>
        <Card
          src={addressOf(routes.trialPicture, { taskId, n: 0 })}
          name="Original"
          figures={[
            ['data rate', rateText(r.dataRate)],
            ['plays here', `${r.speed.toFixed(1)}× real time`, r.speed < 1 ? 'error' : undefined],
            ['depth', `${r.depth} bit ${r.chroma}`],
          ]}
        />
        {r.specs.map((s, i) => (
          <Card
            key={s.spec}
            src={s.fault ? null : addressOf(routes.trialPicture, { taskId, n: i + 1 })}
            name={s.name}
            fault={s.fault}
            on={s.spec === chosen?.spec}
            onChoose={() => onCodes([s.spec])}
            figures={[
              ['data rate', rateText(s.dataRate)],
              ['plays here', s.play ? anglesText(s.play.angles) : '–', s.play?.angles === 0 ? 'error' : undefined],
              ['held up by', s.play ? (s.play.byDrive < s.play.byMachine ? 'the drive' : 'the machine') : '–'],
              ['made at', `${s.fps.toFixed(s.fps < 10 ? 1 : 0)} fps`],
              ['depth', `${s.depth} bit ${s.chroma}`, s.losses.length ? 'warning' : undefined],
              ['likeness', perCent(s.likeness)],
            ]}
          />
        ))}
      </div>
      {r.specs.some((s) => s.sizes.length > 0) && (
        <section aria-label="Size of picture against streams">
          <h2 className="m-0 mb-1 font-[650]">How many play at once on this machine, by the size of the picture</h2>
          <AnglesChart specs={r.specs.filter((s) => s.sizes.length > 0)} />
        </section>
      )}
      {chosen && !chosen.fault && <Room spec={chosen} target={target} />}
    </>
  )
}

function Card({
  src,
  name,
  figures,
  fault = '',
  on = false,
  onChoose,
}: {
  src: string | null
  name: string
  figures: readonly (readonly [string, string, ('error' | 'warning')?])[]
  fault?: string
  on?: boolean
  onChoose?: () => void
}) {
  return (
    <div className={`overflow-hidden rounded-md border ${on ? 'border-ink shadow-[0_0_0_1px_var(--ink)]' : 'border-line'}`}>
      <div className="grid h-[170px] place-items-center overflow-hidden bg-well">
        {src ? (
          <img src={src} alt={`${name}, pixel by pixel`} className="max-w-none" />
        ) : (
          <span className="p-3 text-center text-[#b8b8b8]">It cannot be made of this clip.</span>
        )}
      </div>
      <div className="p-2.5">
        {onChoose ? (
          <button type="button" aria-pressed={on} onClick={onChoose} className="w-full text-left font-[650]">
            {name}
          </button>
        ) : (
          <b className="font-[650]">{name}</b>
        )}
        {fault ? (
          <p className="m-0 flex gap-1.5 text-xs text-pomegranate">
            <NoticeMark severity="error" /> {fault}
          </p>
        ) : (
          <dl className="m-0 grid grid-cols-[auto_minmax(0,1fr)] gap-x-2">
            {figures.map(([what, value, mark]) => (
              <div key={what} className="contents">
                <dt className="text-ink-3">{what}</dt>
                <dd className="m-0 flex items-center justify-end gap-1.5 text-right whitespace-nowrap">
                  {mark && <NoticeMark severity={mark} />}
                  {value}
                </dd>
              </div>
            ))}
          </dl>
        )}
      </div>
    </div>
  )
}

/** The target volume as a bar: what is in use, what copies of every clip would add at the measured data rate, what is left. */
function Room({ spec, target }: { spec: TrialSpec; target: Target }) {
  const projectId = useProjectId()
  const { data: volumes } = api.useVolumesQuery({ projectId })
  const v = volumes?.find((x) => x.id === target.place?.volumeId)
  const { data: e } = api.useEstimateQuery({ projectId, specs: [spec.spec], ...target.place }, { skip: !target.place })
  if (!v || v.size === null || v.free === null || !e) return null
  const added = (spec.dataRate / 8) * e.seconds
  const used = v.size - v.free
  const share = (n: number) => `${Math.max(0, Math.min(100, (100 * n) / (v.size ?? 1)))}%`
  return (
    <section aria-label={`Space on ${v.label}`}>
      <div className="mb-1 flex justify-between">
        <b className="font-[650]">{v.label}</b>
        <span className="text-ink-2">
          {e.clips === 0 ? 'every clip has this copy' : `${e.clips} clips that have no copy of ${spec.name} yet add ${bytes(added)}`}
        </span>
      </div>
      <div className="flex h-3 border border-line" role="img" aria-label={`${bytes(used)} in use, ${bytes(added)} added, ${bytes(v.free - added)} left`}>
        <span className="bg-ink-3" style={{ width: share(used) }} />
        <span className="min-w-[3px] bg-ink" style={{ width: share(added) }} />
      </div>
      <div className="mt-1 flex justify-between text-xs text-ink-3">
        <span>in use {bytes(used)}</span>
        <span className="text-ink">+ {bytes(added)}</span>
        <span>left {bytes(v.free - added)}</span>
      </div>
    </section>
  )
}
