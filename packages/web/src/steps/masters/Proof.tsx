/** The proof sheet: rendered frame beside source frame, worst first; what was checked, and how it came out. */
import { addressOf, type MasterRow, routes } from '@naranja/contract'
import { useCallback, useMemo, useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Canvas, type Draw, usePictures } from '../../charts/index.ts'
import { Bar, Button, CopyMark, lasting, NoticeMark, number, perCent, plural } from '../../ui/index.ts'

export function Proof({ master, cutId }: { master: MasterRow; cutId: string }) {
  const projectId = useProjectId()
  const { data: q } = api.useQueueQuery({ projectId })
  const { data: cut } = api.useCutQuery(cutId)
  const [all, setAll] = useState(false)
  const [check, { isLoading }] = api.useCheckMasterMutation()
  const act = useAct()
  const { report } = master
  const name = master.path.slice(master.path.lastIndexOf('/') + 1)
  const sheets = useMemo(() => [...(report?.events ?? [])].filter((e) => e.points.length > 0).sort((a, b) => a.worst - b.worst), [report])
  if (!report) {
    const task = q?.tasks.find((t) => t.kind === 'master' && t.label === name)
    const going = master.state === 'waiting' || master.state === 'being-made'
    return (
      <div className="m-auto flex w-[460px] flex-col gap-3 text-center">
        <h2 className="m-0 text-[15px] font-[650]">
          {going ? `Rendering ${name}` : master.state === 'unchecked' ? `${name} is rendered, and not checked` : `${name} was not finished`}
        </h2>
        {going && task && (
          <>
            <Bar share={task.total ? task.done / task.total : 0} label={name} className="w-full" />
            <p className="mono m-0 text-ink-2">
              {number(task.done)} of {number(task.total)} frames{task.left !== null && ` · ${lasting(task.left)} left`}
            </p>
            <p className="m-0 text-ink-3">It goes on in the background, and after a restart. When it is finished every event is compared with its source.</p>
          </>
        )}
        {master.state === 'unchecked' && (
          <Button main className="mx-auto" disabled={isLoading} onClick={() => void act(check(master.id), (s) => s.message)}>
            Check {name}
          </Button>
        )}
        {!going && <p className="m-0 text-pomegranate">{task?.error || 'It was cancelled. Finished parts are kept. Start it again in the queue.'}</p>}
      </div>
    )
  }
  const fine = sheets.filter((e) => e.worst >= 0.99 && e.points.every((p) => p.passed))
  const shown = all ? sheets : sheets.slice(0, Math.max(4, sheets.length - fine.length))
  return (
    <>
      <Likenesses master={master} length={cut?.length ?? report.frames} />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_312px]">
        <div className="min-h-0 overflow-auto border-r border-line" tabIndex={0} role="region" aria-label="Proof sheet">
          <div className="flex items-center gap-2.5 px-3 pt-2">
            <b className="font-[650]">Rendered beside its source, worst first</b>
            <span className="text-ink-2">
              {shown.length} of {sheets.length} shown{!all && fine.length > 0 && ', the rest are 99 % and above'}
            </span>
            <Button className="ml-auto py-0.5" onClick={() => setAll(!all)}>
              {all ? 'Show the worst' : 'Show all'}
            </Button>
          </div>
          <div className="grid grid-cols-2 gap-2.5 p-3">
            {shown.map((e) => {
              const worst = [...e.points].sort((a, b) => a.likeness - b.likeness)[0]
              if (!worst) return null
              const wrong = e.points.filter((p) => !p.passed)
              return (
                <figure key={e.eventId} className={`m-0 overflow-hidden rounded-md border bg-panel ${wrong.length ? 'border-pomegranate' : 'border-line'}`}>
                  <div className="grid grid-cols-2 gap-0.5 bg-well">
                    <img
                      loading="lazy"
                      className="aspect-video w-full object-contain"
                      alt={`rendered, frame ${worst.frame}`}
                      src={addressOf(routes.masterStill, { masterId: master.id, frame: worst.frame, width: 400 })}
                    />
                    {worst.clipId && worst.sourceFrame !== null ? (
                      <img
                        loading="lazy"
                        className="aspect-video w-full object-contain"
                        alt={`source, frame ${worst.sourceFrame}`}
                        src={addressOf(routes.clipStill, { clipId: worst.clipId, frame: Math.max(0, worst.sourceFrame), width: 400, viewing: 'originals' })}
                      />
                    ) : (
                      <span className="flex items-center justify-center text-[#bcbcbc]">{e.source}</span>
                    )}
                  </div>
                  <figcaption className="px-2 py-1.5 text-xs text-ink-2">
                    <span className="flex justify-between">
                      <span>rendered, {worst.at} frame</span>
                      <span className="overflow-hidden text-ellipsis whitespace-nowrap">{e.source}</span>
                    </span>
                    <span className="flex justify-between">
                      <span className="mono text-ink">
                        event {e.number} · {perCent(e.worst)}
                      </span>
                      <span className={wrong.length ? 'text-pomegranate' : ''}>
                        {wrong.length ? wrong.map((w) => (w.offset ? `${w.at} is ${Math.abs(w.offset)} frame off` : `${w.at} differs`)).join(', ') : e.note}
                      </span>
                    </span>
                  </figcaption>
                </figure>
              )
            })}
          </div>
        </div>
        <aside aria-label="Report" tabIndex={0} className="flex min-h-0 flex-col gap-2 overflow-auto p-3">
          <b data-testid="verdict" className={`text-[15px] font-[650] ${report.verified ? 'text-leaf' : 'text-pomegranate'}`}>
            {report.verified ? 'Checked: it is what the cut says' : 'It is not what the cut says'}
          </b>
          {master.doubts.map((d) => (
            <p key={d} className="m-0 flex items-start gap-2">
              <span className="mt-1 flex-none">
                <NoticeMark severity="warning" />
              </span>
              <span className="min-w-0 break-words">{d}</span>
            </p>
          ))}
          <p className="m-0 text-ink-2">{number(report.frames)} frames counted, every picture event compared at three of them.</p>
          <ul className="m-0 flex list-none flex-col gap-1.5 p-0">
            {report.checks.map((c) => (
              <li key={c.code} className="flex items-start gap-2">
                <span className="mt-1">
                  <CopyMark state={c.passed ? 'checked' : 'failed'} />
                </span>
                {c.text}
              </li>
            ))}
          </ul>
          {report.placeholders.length > 0 && (
            <Listed title={`${report.placeholders.length} placeholders stand in it`}>
              {report.placeholders.map((p) => (
                <li key={p.eventId}>
                  <span className="mono">{p.eventId}</span>: {p.reason}
                </li>
              ))}
            </Listed>
          )}
          {report.missing.length > 0 && (
            <Listed
              title={`${plural(
                report.missing.reduce((n, m) => n + m.frames, 0),
                'frame',
              )} that no original has`}
            >
              {report.missing.map((m) => (
                <li key={m.eventId}>
                  <span className="mono">{m.eventId}</span>: {plural(m.frames, 'frame')}, {m.held ? 'the picture beside them held' : 'a placeholder'}
                </li>
              ))}
            </Listed>
          )}
          {report.finishing.length > 0 && (
            <Listed title={`${plural(report.finishing.length, 'clip')} finished from ${report.finishing.length === 1 ? 'an intermediate' : 'intermediates'}`}>
              {report.finishing.map((f) => (
                <li key={f.clip}>
                  <span className="mono">{f.clip}</span> from <span className="mono">{f.copy}</span>, {plural(f.eventIds.length, 'event')}: {f.decided}
                </li>
              ))}
            </Listed>
          )}
          {report.unconfirmed.length > 0 && (
            <Listed title={`${report.unconfirmed.length} matches were likely and unconfirmed`}>
              {report.unconfirmed.map((u) => (
                <li key={u} className="mono">
                  {u}
                </li>
              ))}
            </Listed>
          )}
          {report.notCarried.length > 0 && (
            <Listed title="Not carried from the list">
              {report.notCarried.map((u) => (
                <li key={u}>{u}</li>
              ))}
            </Listed>
          )}
          <p className="mono m-0 mt-auto break-all text-ink-3">
            {master.path}
            <br />
            {report.checksum}
          </p>
        </aside>
      </div>
    </>
  )
}

function Listed({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div className="rounded-md border border-line p-2">
      <p className="m-0 mb-1 flex items-center gap-2">
        <NoticeMark severity="warning" /> {title}
      </p>
      <ul className="m-0 pl-5 text-xs text-ink-2">{children}</ul>
    </div>
  )
}

/** Pictures of the master in record time, and its likeness to the sources below. */
function Likenesses({ master, length }: { master: MasterRow; length: number }) {
  const picture = usePictures()
  const events = useMemo(
    () => [...(master.report?.events ?? [])].filter((e) => e.points.length).sort((a, b) => (a.points[0]?.frame ?? 0) - (b.points[0]?.frame ?? 0)),
    [master],
  )
  const draw: Draw = useCallback(
    (g, w, _h, colour) => {
      const x = (f: number) => 70 + (f / Math.max(1, length)) * (w - 82)
      g.textBaseline = 'middle'
      g.font = '12px "Hanken Grotesk Variable", sans-serif'
      g.fillStyle = colour('ink-3')
      g.fillText('picture', 12, 34)
      g.fillText('likeness', 12, 84)
      g.fillText('level', 12, 112)
      g.fillStyle = colour('line')
      for (const y of [70, 98, 112]) g.fillRect(70, y, w - 82, 1)
      for (const e of events) {
        const a = e.points[0]?.frame ?? 0
        const b = (e.points.at(-1)?.frame ?? a) + 1
        const left = x(a)
        const width = Math.max(1, x(b) - left - 1.5)
        const middle = e.points[Math.floor(e.points.length / 2)]
        const image = width > 4 ? picture(addressOf(routes.masterStill, { masterId: master.id, frame: middle?.frame ?? a, width: 160 })) : null
        g.save()
        g.beginPath()
        g.rect(left, 10, width, 48)
        g.clip()
        g.fillStyle = colour('raised')
        g.fillRect(left, 10, width, 48)
        if (image) g.drawImage(image, left, 10, (48 * image.naturalWidth) / image.naturalHeight, 48)
        g.restore()
        const bad = e.points.some((p) => !p.passed)
        g.fillStyle = colour(bad ? 'pomegranate' : e.worst < 0.97 ? 'lemon' : 'ink-2')
        g.fillRect(left, 98 - Math.max(0, (e.worst - 0.9) / 0.1) * 26, width, bad ? 4 : 2)
        g.fillStyle = colour('ink-2')
        const level = e.points.reduce((n, p) => (Math.abs(p.level) > Math.abs(n) ? p.level : n), 0)
        g.fillRect(left, 112 - Math.max(-8, Math.min(8, level * 2)), width, 1.5)
      }
    },
    [events, length, master.id, picture],
  )
  return (
    <div className="flex-none border-b border-line">
      <Canvas
        height={124}
        draw={draw}
        label={`Likeness of ${events.length} events to their sources along the cut; the lowest is ${perCent(Math.min(1, ...events.map((e) => e.worst)))}`}
      />
    </div>
  )
}
