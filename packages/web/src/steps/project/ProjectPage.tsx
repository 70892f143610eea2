/** The project's page: how far it is, what a person should notice, and what can be done about it. */
import type { Summary } from '@naranja/contract'
import { rateFraction, rateText, sameRate } from '@naranja/core/time'
import { ArrowRight, Plus } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { showAdding, useAct, useAppDispatch, useComing, useEditProject, useFormatKnown, useProject, useProjectId } from '../../state/index.ts'
import { Button, bytes, Empty, Head, lasting, Loading, NoticeMark, number, plural, Segments, stationsOfProject } from '../../ui/index.ts'
import { LookForButton } from '../../places/index.ts'
import { Coming, RuleDialog } from '../originals/index.ts'
import { noticeSaid } from './said.ts'

type Noticed = Summary['notices'][number]

const isLost = (n: Noticed): boolean => n.code === 'gone'

export function ProjectPage() {
  const id = useProjectId()
  const project = useProject()
  const { data: s } = api.useSummaryQuery(id)
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const [giving, setGiving] = useState<'start' | 'reel' | null>(null)
  const coming = useComing()
  const formatKnown = useFormatKnown()
  if (!project || !s)
    return (
      <>
        <Head title="Project" />
        <Loading what="the project" />
      </>
    )
  const add = () => {
    void navigate(`/p/${id}/originals`)
    dispatch(showAdding({}))
  }
  const notable = s.notices.filter((n) => n.severity !== 'info')
  const toKnow = s.notices.filter((n) => n.severity === 'info')
  return (
    <>
      <Head
        title={project.name}
        sub={
          formatKnown && (
            <span>
              {rateText(project.rate)} fps, {project.width}×{project.height}
            </span>
          )
        }
      >
        <Button main onClick={add}>
          <Plus size={14} aria-hidden /> Add originals
        </Button>
      </Head>
      {s.clips === 0 && coming ? (
        <Coming task={coming} />
      ) : s.clips === 0 ? (
        <Empty
          guide="/guide"
          title="Begin with the originals"
          action={
            <Button main onClick={add}>
              Add originals
            </Button>
          }
        >
          This page will show how far the project has come, what to notice about its clips, and what can be done about it.
        </Empty>
      ) : (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_340px] overflow-hidden">
          <div className="min-h-0 overflow-auto border-r border-line p-4">
            <Stations s={s} />
            <h2 className="mt-5 mb-1 text-[15px] font-[650]">Notices</h2>
            {notable.length === 0 && s.away.length === 0 && s.unsafe === 0 && <p className="m-0 text-ink-2">Nothing that needs a person.</p>}
            <ul aria-label="Notices" className="m-0 list-none p-0">
              {/* What is lost comes before what is only unwise. */}
              {notable.filter(isLost).map((n) => (
                <Line key={n.code} severity={n.severity} to={`originals?notice=${n.code}`} text={noticeSaid(n.code, n.count)}>
                  <Remedy n={n} s={s} onGive={setGiving} />
                </Line>
              ))}
              {s.away.map((v) => (
                <Line
                  key={v.volume}
                  severity="warning"
                  to="originals"
                  text={`${plural(v.clips, 'clip')} on ${v.volume}, which is away: ${v.why}. Connect it and they are back by themselves.`}
                >
                  <LookForButton className="flex-none py-[3px]" what="all that is away or gone" />
                </Line>
              ))}
              {s.unsafe > 0 && (
                <Line
                  severity="warning"
                  to="originals?view=rolls"
                  link="Roll board"
                  text={`${number(s.unsafe)} of ${plural(s.clips, 'original')} have no verified backup. Add them again with "Back up first", and they go on from the safer place.`}
                />
              )}
              {notable
                .filter((n) => !isLost(n))
                .map((n) => (
                  <Line key={n.code} severity={n.severity} to={`originals?notice=${n.code}`} text={noticeSaid(n.code, n.count)}>
                    <Remedy n={n} s={s} onGive={setGiving} />
                  </Line>
                ))}
            </ul>
            {toKnow.length > 0 && (
              <>
                <h2 className="mt-5 mb-1 text-[15px] font-[650]">Information</h2>
                <ul aria-label="Information" className="m-0 list-none p-0">
                  {toKnow.map((n) => (
                    <Line key={n.code} severity="info" to={`originals?notice=${n.code}`} text={noticeSaid(n.code, n.count)}>
                      <Remedy n={n} s={s} onGive={setGiving} />
                    </Line>
                  ))}
                </ul>
              </>
            )}
          </div>
          <aside className="min-h-0 overflow-auto p-4">
            <Format s={s} />
            {s.advice && (
              <section aria-label="Advice" className="mt-5">
                <h2 className="m-0 mb-1 text-[15px] font-[650]">How to cut it</h2>
                <p className="m-0">{s.advice.text}</p>
                <ul className="m-0 mt-1.5 pl-4 text-ink-2">
                  {s.advice.reasons.map((r) => (
                    <li key={r}>{r}</li>
                  ))}
                </ul>
                {s.advice.way !== 'originals' && (
                  <Button className="mt-2.5" onClick={() => void navigate(`/p/${id}/copies`)}>
                    Make edit copies
                  </Button>
                )}
              </section>
            )}
          </aside>
        </div>
      )}
      {giving && <RuleDialog kind={giving} onClose={() => setGiving(null)} />}
    </>
  )
}

/** The segments large, and each station in figures. */
function Stations({ s }: { s: Summary }) {
  const id = useProjectId()
  const rows: [string, string, string, string][] = [
    ['Originals', `${number(s.clips)}`, `${plural(s.rolls, 'roll')}, ${lasting(s.seconds)}, ${bytes(s.bytes)}; ${number(s.safeTwice)} safe twice`, 'originals'],
    ['Edit copies', `${number(s.copied)} of ${number(s.copyable)}`, 'made and checked against their originals', 'copies'],
    ['Reconnected', s.events ? `${number(s.settled)} of ${number(s.events)}` : '–', s.events ? 'events of the newest cut' : 'no cut list yet', 'reconnect'],
    [
      'Checked',
      s.masters ? plural(s.masters, 'master') : '–',
      s.masters ? `${plural(s.checked, 'clip')} checked in them, picture by picture` : 'no master yet',
      'masters',
    ],
  ]
  return (
    <div className="flex items-center gap-6">
      <Segments stations={stationsOfProject(s)} size={112} />
      <dl className="m-0 grid flex-1 grid-cols-2 gap-x-6 gap-y-3">
        {rows.map(([name, figure, more, to]) => (
          <div key={name}>
            <dt className="text-xs text-ink-3">{name}</dt>
            <dd className="m-0">
              <Link to={`/p/${id}/${to}`} className="text-[17px] font-[650] tabular-nums hover:underline">
                {figure}
              </Link>
              <div className="text-xs text-ink-2">{more}</div>
            </dd>
          </div>
        ))}
      </dl>
    </div>
  )
}

/** `to` is below the project's address. */
function Line({ severity, text, to, link, children }: { severity: Noticed['severity']; text: string; to: string; link?: string; children?: ReactNode }) {
  return (
    <li className="flex items-start gap-2.5 border-b border-line/70 py-2">
      <span className="mt-[3px]">
        <NoticeMark severity={severity} />
      </span>
      <span className="min-w-0 flex-1">{text}</span>
      {children}
      <Link to={`/p/${useProjectId()}/${to}`} className="inline-flex items-center gap-0.5 py-[3px] whitespace-nowrap text-ink-2 hover:text-ink">
        {link ?? 'Show'} <ArrowRight size={12} aria-hidden />
      </Link>
    </li>
  )
}

/** What can be done about a notice, where one button does it. */
function Remedy({ n, s, onGive }: { n: Noticed; s: Summary; onGive: (kind: 'start' | 'reel') => void }) {
  const id = useProjectId()
  const project = useProject()
  const navigate = useNavigate()
  const act = useAct()
  const [edit] = useEditProject()
  const [light] = api.useMarkLightMutation()
  const [see] = api.useSeeChangesMutation()
  const m = s.majority
  const button = (text: string, does: () => void) => (
    <Button className="flex-none py-[3px]" onClick={does}>
      {text}
    </Button>
  )
  if (n.code === 'gone') return <LookForButton className="flex-none py-[3px]" what="all that is away or gone" />
  if (n.code === 'no-timecode' || n.code === 'zero-timecode') return button('Give timecode', () => onGive('start'))
  if (n.code === 'no-reel') return button('Name reels', () => onGive('reel'))
  if (n.code === 'long-gop' || n.code === 'variable-rate') return button('Make edit copies', () => void navigate(`/p/${id}/copies`))
  if (n.code === 'light-copy') return button('Mark as light copies', () => void act(light({ projectId: id, mark: true }), (c) => c.sentence, id))
  if (n.code === 'marked-light') return button('Count as originals', () => void act(light({ projectId: id, mark: false }), (c) => c.sentence, id))
  if (n.code === 'changed') return button('Seen', () => void act(see(id), (c) => c.sentence, id))
  if (!project || !m) return null
  if (n.code === 'other-rate' && !sameRate(m.rate, project.rate))
    return button(
      `Set the project to ${rateText(m.rate)} fps`,
      () => void edit({ rate: rateFraction(m.rate) }, `The project runs at ${rateText(m.rate)} fps.`, { undo: true }),
    )
  if (n.code === 'other-shape' && (m.width !== project.width || m.height !== project.height))
    return button(
      `Set the raster to ${m.width}×${m.height}`,
      () => void edit({ width: m.width, height: m.height }, `The raster is ${m.width}×${m.height}.`, { undo: true }),
    )
  return null
}

/** What most clips are, against what the project is. */
function Format({ s }: { s: Summary }) {
  const project = useProject()
  const [edit] = useEditProject()
  const m = s.majority
  if (!m || !project) return null
  const rateFits = sameRate(m.rate, project.rate)
  const sizeFits = m.width - (m.width % 2) === project.width && m.height - (m.height % 2) === project.height
  const row = (name: string, now: string, most: string, take: string, fits: boolean, does: () => void) => (
    <div className="border-b border-line/70 py-2">
      <div className="flex justify-between gap-3">
        <span className="text-ink-3">{name}</span>
        <span>{now}</span>
      </div>
      <div className="mt-0.5 flex items-center justify-between gap-3 text-ink-2">
        <span>{most}</span>
        {fits ? (
          <span className="text-xs whitespace-nowrap text-leaf">as most clips</span>
        ) : (
          <Button className="py-[2px]" onClick={does}>
            {take}
          </Button>
        )}
      </div>
    </div>
  )
  return (
    <section aria-label="Rate and raster">
      <h2 className="m-0 text-[15px] font-[650]">Rate and raster</h2>
      {row(
        'Rate',
        `${rateText(project.rate)} fps`,
        `${number(m.rateCount)} of ${plural(m.count, 'clip')} at ${rateText(m.rate)} fps`,
        `Take ${rateText(m.rate)}`,
        rateFits,
        () => void edit({ rate: rateFraction(m.rate) }, `The project runs at ${rateText(m.rate)} fps.`, { undo: true }),
      )}
      {row(
        'Raster',
        `${project.width}×${project.height}`,
        `${number(m.sizeCount)} of ${plural(m.count, 'clip')} in ${m.width}×${m.height}`,
        'Take that raster',
        sizeFits,
        () => void edit({ width: m.width, height: m.height }, `The raster is ${m.width}×${m.height}.`, { undo: true }),
      )}
      <p className="m-0 mt-1.5 text-xs text-ink-3">The rate is fixed once there is a cut list; the raster can be changed at any time.</p>
    </section>
  )
}
