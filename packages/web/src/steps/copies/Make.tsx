/** What chosen specs do, what they will take, and the button. */
import type { SpecRow } from '@naranja/contract'
import { codingOf, wrapperOf } from '@naranja/core/specs'
import { aboutTime } from '@naranja/core/estimate'
import { Fragment, useState } from 'react'
import { Link } from 'react-router'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, bytes, Field, Figure, inputLook, lasting, NoticeMark, plural } from '../../ui/index.ts'
import { LogChoice } from '../../pieces/index.ts'
import { type Target, TargetPicker } from '../../places/index.ts'
import { anglesText, useLastTrial } from './useLastTrial.ts'

const frameWords = (s: SpecRow): string => {
  const f = s.frame
  const upTo = s.enlarge ? '' : ' at most'
  if (f.by === 'original') return "the original's size"
  if (f.by === 'exact') return `${f.width}×${f.height}, ${{ fit: 'fitted', fill: 'filled', stretch: 'stretched', centre: 'centre 1:1' }[s.framing]}`
  return f.by === 'height' ? `${f.height} high${upTo}, shape kept` : `${f.width} wide${upTo}, shape kept`
}
const soundWords = (s: SpecRow): string =>
  ({
    all: 'all channels',
    unsilent: 'all but silent channels',
    chosen: `channels ${s.sound.chosen.join(', ')}`,
    mix: 'a mix-down',
    none: 'none',
  })[s.sound.channels]
/** What copies under a spec keep of their originals. */
const keeps = (s: SpecRow): string => {
  const kept = [
    s.naming.before || s.naming.after ? '' : 'names',
    'timecode',
    'reel',
    s.sound.channels === 'all' ? 'all sound' : '',
    s.rate === 'as-shot' ? 'rate and every frame' : '',
  ].filter(Boolean)
  return `Keeps ${kept.slice(0, -1).join(', ')}${kept.length > 1 ? (s.rate === 'as-shot' ? ', ' : ' and ') : ''}${kept.at(-1)}.`
}

export function Make({
  specs,
  others,
  target,
  onAlso,
  onSpec,
}: {
  specs: readonly SpecRow[]
  others: readonly SpecRow[]
  target: Target
  onAlso: (code: string) => void
  onSpec: (code: string) => void
}) {
  const projectId = useProjectId()
  const [first] = specs
  const beside = specs.every((s) => s.place.how === 'beside')
  const ticks = api.useSummaryQuery(projectId).data?.ticked ?? 0
  const { data: cuts } = api.useCutsQuery(projectId)
  // Which clips: all, the ticked ones, or those that a cut uses.
  const tried = useLastTrial().result?.specs.find((t) => t.spec === first?.code && t.version === first.version)
  // Whoever has ticked clips means them, until something else is chosen.
  const [asked, setOf] = useState<string | null>(null)
  const of = asked ?? (ticks > 0 ? 'ticked' : '')
  const ticked = of === 'ticked' && ticks > 0
  const [id, ranges] = of.split(' ')
  const cut = cuts?.find((c) => c.id === id)
  const [handles, setHandles] = useState(25)
  const [again, setAgain] = useState(false)
  const [log, setLog] = useState('')
  const [leaveEasy, setLeaveEasy] = useState(false)
  const ask = {
    projectId,
    specs: specs.map((s) => s.code),
    ...(beside ? {} : target.place),
    ticked,
    again,
    leaveEasy,
    ...(cut ? { cutId: cut.id, ...(ranges ? { handles } : {}) } : {}),
  }
  const { data: e, error } = api.useEstimateQuery(ask)
  const [make, { isLoading }] = api.useMakeCopiesMutation()
  const act = useAct()
  const why = refusal(error)
  const tight = e?.free != null && e.bytes > e.free - (e.reserve ?? 0)
  const reasons = [...new Set(e?.left.map((l) => l.reason) ?? [])].map((r) => `${e?.left.filter((l) => l.reason === r).length}: ${r}`)
  const title = specs.map((s) => s.name).join(' and ')
  const copies = specs.length * (e?.pieces ?? 0)
  return (
    <aside aria-label={title} className="flex min-h-0 flex-col p-3">
      <div className="flex min-h-0 flex-1 flex-col gap-2 overflow-auto pb-2">
        {specs.map((s) => {
          const c = codingOf(s.coding)
          return (
            <div key={s.code}>
              <div className="flex items-baseline justify-between gap-2">
                {specs.length === 1 ? (
                  <select aria-label="Spec" className={`${inputLook} min-w-0 flex-1 font-[650]`} value={s.code} onChange={(x) => onSpec(x.target.value)}>
                    {[s, ...others].map((x) => (
                      <option key={x.code} value={x.code}>
                        {x.name}
                      </option>
                    ))}
                  </select>
                ) : (
                  <b className="font-[650]">{s.name}</b>
                )}
                <Link to={`/p/${projectId}/specs/${s.code}`} className="text-xs whitespace-nowrap text-ink-2 underline">
                  Change this spec
                </Link>
              </div>
              <p className="my-1.5 text-ink-2">
                {s.purpose} {keeps(s)}
              </p>
              {specs.length === 1 && (
                <div>
                  <Figure name="Frame">{frameWords(s)}</Figure>
                  {s.burnIns.length > 0 && <Figure name="Burn-ins">{s.burnIns.map((b) => b.what).join(', ')}</Figure>}
                  <Figure name="Picture">
                    {c.depth} bit {c.chroma}, {wrapperOf(s.wrapper).name}
                  </Figure>
                  {s.sound.channels !== 'all' && <Figure name="Sound">{soundWords(s)}</Figure>}
                  <Figure name="Plays here">
                    {tried?.play ? (
                      <Link to={`/p/${projectId}/copies/trial`} className="underline">
                        {anglesText(tried.play.angles)}
                      </Link>
                    ) : (
                      <Link to={`/p/${projectId}/copies/trial`} className="text-ink-2 underline">
                        try it
                      </Link>
                    )}
                  </Figure>
                </div>
              )}
            </div>
          )
        })}
        {specs.length > 1 && <p className="m-0 text-xs text-ink-3">All are made in one pass, each into a folder named after its spec.</p>}
        {specs.length < 4 && others.length > 0 && (
          <select aria-label="Also, from the same decode" className={inputLook} value="" onChange={(x) => x.target.value && onAlso(x.target.value)}>
            <option value="">Also, from the same decode …</option>
            {others.map((s) => (
              <option key={s.code} value={s.code}>
                {s.name}
              </option>
            ))}
          </select>
        )}
        <div className="mt-1 flex flex-col gap-2">
          {beside ? (
            <p className="m-0 text-ink-2">
              Each copy goes into a folder beside its original.
              {e?.first && (
                <span className="block text-xs text-ink-3">
                  First file: <span className="mono break-all text-ink-2">{e.first}</span>
                </span>
              )}
            </p>
          ) : (
            <TargetPicker target={target} label="Copies go to" first={e?.first ?? null} />
          )}
          {(ticks > 0 || (cuts?.length ?? 0) > 0) && (
            <Field label="Clips">
              {(id) => (
                <select id={id} className={inputLook} value={ticked || cut ? of : ''} onChange={(x) => setOf(x.target.value)}>
                  <option value="">all</option>
                  {ticks > 0 && <option value="ticked">only the {plural(ticks, 'ticked clip')}</option>}
                  {cuts?.map((c) => (
                    <Fragment key={c.id}>
                      <option value={c.id}>only those that {c.name} uses</option>
                      <option value={`${c.id} ranges`}>only the ranges that {c.name} uses</option>
                    </Fragment>
                  ))}
                </select>
              )}
            </Field>
          )}
          {cut && ranges && (
            <Field label="Handles" hint="Frames kept before and after each range. A clip without timecode is copied whole.">
              {(id) => (
                <input
                  id={id}
                  type="number"
                  min={0}
                  max={10_000}
                  className={`${inputLook} mono`}
                  value={handles}
                  onChange={(x) => Number.isInteger(x.target.valueAsNumber) && setHandles(Math.max(0, Math.min(10_000, x.target.valueAsNumber)))}
                />
              )}
            </Field>
          )}
        </div>
        {e && e.old > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={again} onChange={(x) => setAgain(x.target.checked)} /> Remake what is out of date ({e.old})
          </label>
        )}
        {e && e.easy > 0 && (
          <label className="flex items-center gap-2">
            <input type="checkbox" className="accent-zest" checked={leaveEasy} onChange={(x) => setLeaveEasy(x.target.checked)} /> Leave out{' '}
            {plural(e.easy, 'clip that edits', 'clips that edit')} easily
          </label>
        )}
        {e?.warnings.map((w) => (
          <p key={w.text} className="m-0 flex gap-2 text-ink-2">
            <span className="mt-0.5">
              <NoticeMark severity={w.severity} />
            </span>
            {w.text}
          </p>
        ))}
        <LogChoice label="Clip log in each folder" none="none" value={log} onChange={setLog} />
      </div>
      <div className="flex flex-none flex-col gap-1 border-t border-line pt-2">
        {why && <p className="m-0 text-pomegranate">{why.message}</p>}
        {e && (
          <>
            <Figure name="Clips">
              {e.clips}
              {ranges && e.pieces !== e.clips && `, in ${plural(e.pieces, 'range')}`}
              {e.clips > 0 && `, ${lasting(e.seconds)} long`}
              {reasons.length > 0 && <span className="block text-xs text-ink-3">left out: {reasons.join('; ')}</span>}
            </Figure>
            {e.clips > 0 && (
              <>
                <Figure name="Space">
                  {bytes(e.bytes)}
                  {e.free !== null && ` of ${bytes(e.free)} free`}
                  {e.reserve !== null && <span className="block text-xs text-ink-3">{bytes(e.reserve)} of it stay free</span>}
                  {e.soundBytes > 0 && <span className="block text-xs text-ink-3">of it {bytes(e.soundBytes)} sound</span>}
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
          disabled={!e || e.clips === 0 || tight || !(beside || target.ready) || isLoading}
          onClick={() => void act(make({ ...ask, ...(log ? { log } : {}) }), (s) => s.message)}
        >
          {!e ? 'Make edit copies' : e.clips === 0 ? 'No copy left to make' : `Make ${plural(copies, 'edit copy', 'edit copies')}`}
        </Button>
      </div>
    </aside>
  )
}
