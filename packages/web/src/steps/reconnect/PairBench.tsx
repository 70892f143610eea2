/** The pair bench: the edit's own picture beside a candidate, at first, middle or last frame, and how alike they are. */
import { addressOf, type CandidateShape, type ClipDetail, type CutDetail, type EventShape, type LinkRow, routes, type Viewing } from '@naranja/contract'
import { pointsOf } from '@naranja/core/cutlist'
import { frameShown } from '@naranja/core/reconnect'
import { formatFrames } from '@naranja/core/time'
import { type ReactNode, useCallback, useEffect, useState } from 'react'
import { api } from '../../api/index.ts'
import { useViewing } from '../../state/index.ts'
import { Canvas, type Draw } from '../../charts/index.ts'
import { Button, Choice, Kbd, NoticeMark, number, perCent, plural, rateName, StateMark, stateWords } from '../../ui/index.ts'
import { editStill, hasPictures } from '../cutlists/index.ts'
import { standingWords } from './LightDialog.tsx'
import { untold } from './reasons.ts'
import { FindByPicture } from './FindByPicture.tsx'

export type At = 'first' | 'middle' | 'last'
/** For which events something is settled. */
export type Scope = 'event' | 'clip' | 'reel'
const places: readonly At[] = ['first', 'middle', 'last']
interface Props {
  cut: CutDetail
  event: EventShape
  link: LinkRow
  at: At
  onAt: (at: At) => void
  chosen: number
  onChoose: (i: number) => void
  /** Frames by which the candidate is looked at later than its evidence says. */
  nudge: number
  onNudge: (frames: number) => void
  onTake: () => void
  onConfirm: () => void
  onNone: () => void
  onCamera: () => void
  onClear: () => void
  /** All three frames at once. */
  three: boolean
  onThree: (three: boolean) => void
  scope: Scope
  onScope: (scope: Scope) => void
  /** Its pictures are looked for among the originals. */
  finding: boolean
  onFind: () => void
  onFound: (clipId: string, first: number) => void
  /** Confirms the events that are likely for the same reason as this one, with how many they are, and whether all likely ones are among them. */
  alike: { readonly count: number; readonly all: boolean; readonly doubt: string; readonly onConfirm: () => void } | null
  /** How many events each scope holds. */
  held: Readonly<Record<Scope, number>>
}

export function PairBench(props: Props) {
  const {
    cut,
    event,
    link,
    at,
    onAt,
    chosen,
    onChoose,
    nudge,
    onNudge,
    onTake,
    onConfirm,
    onNone,
    onCamera,
    onClear,
    three,
    onThree,
    scope,
    onScope,
    alike,
    held,
    finding,
    onFind,
    onFound,
  } = props
  const viewing = useViewing()
  const candidate: CandidateShape | undefined = link.candidates[chosen]
  const { currentData: clip } = api.useClipQuery(candidate?.clipId ?? '', { skip: !candidate })
  const k = pointsOf(event)[at]
  const record = event.recordIn - cut.start + k
  const picture = event.medium === 'picture'
  const own = hasPictures(cut)
  /** Whether a clip is a candidate twice: its timecode names different frames by how it is counted. */
  const twice = (c: CandidateShape) => link.candidates.filter((o) => o.clipId === c.clipId).length > 1
  const frame = candidate && clip ? frameShown(event.speed, candidate, clip.rate, cut.rate, k) + nudge : 0
  const inside = clip ? frame - nudge >= 0 && frame - nudge < clip.frames : false
  const shown = clip ? frame >= 0 && frame < clip.frames : false
  const { currentData: curve, isFetching } = api.useLikenessQuery(
    { cutId: cut.id, event: event.id, clipId: candidate?.clipId ?? '', at, viewing, ...(candidate && twice(candidate) ? { from: candidate.range.in } : {}) },
    { skip: !candidate || !picture || !own || !inside },
  )
  const settled = link.state === 'set-by-hand' || link.state === 'confirmed'
  const nearest = link.state === 'not-found'
  // The evidence for the one that was taken, and the places of several, stand below already.
  const alone = (link.state === 'certain' || link.state === 'likely') && chosen === 0
  const why = alone && candidate ? untold(link.reason, candidate.evidence) : link.state === 'several' ? link.reason.replace(/: .*/, '.') : link.reason
  const frameChoice = (
    <Choice
      label="Frame of the event"
      value={three ? 'all' : at}
      onChange={(v) => {
        onThree(v === 'all')
        if (v !== 'all') onAt(v)
      }}
      options={[
        ['first', 'first'],
        ['middle', 'middle'],
        ['last', 'last'],
        ['all', 'all three'],
      ]}
    />
  )
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)_minmax(300px,26%)] grid-rows-[minmax(0,1fr)_auto]">
      {three && picture ? (
        <Three cut={cut} event={event} candidate={candidate} clip={clip} viewing={viewing} choice={frameChoice} />
      ) : (
        <>
          <figure className="m-0 flex min-h-0 flex-col border-r border-line">
            <figcaption className="flex h-8 flex-none items-center justify-between px-2 whitespace-nowrap">
              <span>
                Edit's picture{' '}
                <span className="text-ink-3">{cut.reference ? `reference, frame ${record}` : cut.copies ? `light copy, frame ${k} of the event` : 'none'}</span>
              </span>
              {frameChoice}
            </figcaption>
            <Well
              url={picture && own ? editStill(cut.id, event.id, k, 960) : null}
              alt={`The edit at ${formatFrames(event.recordIn + k, cut.rate, cut.drop)}`}
              words={picture ? "Choose the edit's own pictures in Cut lists to compare with." : 'A sound event has no picture.'}
            />
            <div className="mono flex flex-none justify-between px-2 py-1 text-ink-2">
              <span>{formatFrames(event.recordIn + k, cut.rate, cut.drop)}</span>
              <span className="overflow-hidden text-ellipsis">
                {event.clipName} · reel {event.reel}
              </span>
            </div>
          </figure>
          <figure className="m-0 flex min-h-0 flex-col border-r border-line">
            <figcaption className="flex h-8 flex-none items-center justify-between px-2 whitespace-nowrap">
              <span>
                {candidate ? (nearest ? `Nearest ${chosen + 1}` : `Candidate ${chosen + 1}`) : 'No candidate'}{' '}
                {candidate?.light ? (
                  <span className="text-lemon">a light copy</span>
                ) : (
                  <span className="text-ink-3">{curve?.shown ?? (candidate ? viewing.replace(/(ie)?s$/, (m) => (m === 'ies' ? 'y' : '')) : '')}</span>
                )}
              </span>
              <span className="overflow-hidden text-ellipsis text-ink-2">
                {clip && `${clip.hasPicture ? `${clip.width}×${clip.height} · ` : ''}${rateName(clip.rate)} · ${clip.codec}`}
              </span>
            </figcaption>
            <Well
              url={candidate && clip?.hasPicture && shown ? addressOf(routes.clipStill, { clipId: candidate.clipId, frame, width: 960, viewing }) : null}
              alt={`${candidate?.name}, frame ${frame}`}
              words={
                candidate
                  ? !clip
                    ? ''
                    : shown
                      ? 'This original has no picture.'
                      : 'This frame lies outside the original.'
                  : 'Nothing fits. Look for the original, or say that none is needed.'
              }
            />
            <div className="mono flex flex-none justify-between gap-3 px-2 py-1 whitespace-nowrap text-ink-2">
              <span>
                {candidate && `frame ${frame}`}
                {nudge !== 0 && <span className="text-lemon"> {offsetText(nudge)}</span>}
              </span>
              <span className="overflow-hidden text-ellipsis" title={`${candidate?.place}${candidate?.name}`}>
                {candidate && `${candidate.place}${candidate.name}`}
              </span>
            </div>
          </figure>
        </>
      )}
      <div className="row-span-2 flex min-h-0 flex-col gap-1.5 overflow-auto p-3">
        <div className="flex items-center gap-2">
          <StateMark state={link.state} away={link.away} size={16} />
          <b className="font-semibold">
            Event {event.number} on {event.track}: {stateWords[link.state]}
            {link.away && ', away'}
          </b>
        </div>
        {why !== '' && <p className="m-0 text-ink-2">{why}</p>}
        <ol data-candidates aria-label={nearest ? 'Nearest originals' : 'Candidates'} className="m-0 flex list-none flex-col gap-0.5 p-0">
          {link.candidates.map((c, i) => (
            <CandidateItem
              key={`${c.clipId} ${c.range.in}`}
              c={c}
              number={i + 1}
              counted={twice(c) ? `frame ${c.range.in} on, counted at the ${c.countedAt === 'source' ? "original's" : "list's"} rate` : null}
              chosen={i === chosen}
              onChoose={() => onChoose(i)}
              ask={
                picture && own && (i === chosen || ((link.state === 'several' || twice(c)) && i < 4)) ? { cutId: cut.id, event: event.id, at, viewing } : null
              }
            />
          ))}
        </ol>
        {candidate?.light && (
          <div className="flex gap-2">
            <span className="mt-0.5 flex-none">
              <NoticeMark severity="warning" />
            </span>
            <span className="min-w-0 break-words">It {standingWords(candidate.light)}.</span>
          </div>
        )}
        {candidate?.evidence.map((e) => (
          <div key={e.kind} className="flex gap-2">
            <b
              aria-hidden="true"
              className={`w-3 flex-none text-center ${e.agreement === 'agrees' ? (e.weak ? 'text-ink-3' : 'text-leaf') : e.agreement === 'contradicts' ? 'text-pomegranate' : 'text-lemon'}`}
            >
              {e.agreement === 'agrees' ? '+' : e.agreement === 'contradicts' ? '−' : e.agreement === 'bent' ? '≈' : '?'}
            </b>
            <span className="min-w-0 break-words">
              <span className="sr-only">{e.agreement}: </span>
              {e.text}
            </span>
          </div>
        ))}
        {curve?.message && (
          <div className="flex gap-2 text-ink-3">
            <NoticeMark severity="info" /> {curve.message}
          </div>
        )}
        {picture && own && (nearest || link.state === 'several' || link.state === 'likely') && (
          <FindByPicture cut={cut} event={event} open={finding} onOpen={onFind} onTake={onFound} />
        )}
        {(held.clip > 1 || held.reel > 1) && link.state !== 'certain' && (
          <span>
            <Choice
              label="For which events"
              value={scope}
              onChange={onScope}
              options={[
                ['event', 'this event'],
                ...(held.clip > 1 ? [['clip', `${held.clip} of this clip`] as const] : []),
                ...(held.reel > 1 ? [['reel', `${held.reel} on this reel`] as const] : []),
              ]}
            />
          </span>
        )}
        <div className="sticky -bottom-3 -mb-3 mt-auto flex flex-wrap items-center gap-2 bg-ground pt-2 pb-3">
          {candidate && nudge !== 0 ? (
            <Button main onClick={onTake}>
              Take it {plural(Math.abs(nudge), 'frame')} {nudge > 0 ? 'later' : 'earlier'}
              <span className="rounded border border-current px-1 font-mono text-[11px]">Enter</span>
            </Button>
          ) : (
            <>
              {candidate?.light && (chosen > 0 || link.state === 'several' || nearest) && <Button onClick={onTake}>Use this light copy …</Button>}
              {candidate && !candidate.light && (link.state === 'several' || nearest || (chosen > 0 && !settled) || (settled && chosen > 0)) && (
                <Button main onClick={onTake}>
                  Take {nearest ? 'it all the same' : `candidate ${chosen + 1}`}
                  {!nearest && <span className="rounded border border-current px-1 font-mono text-[11px]">Enter</span>}
                </Button>
              )}
              {link.state === 'likely' && chosen === 0 && (
                <Button main onClick={onConfirm}>
                  Confirm <span className="rounded border border-current px-1 font-mono text-[11px]">Enter</span>
                </Button>
              )}
            </>
          )}
          {curve && curve.best !== 0 && nudge !== curve.best && likelier(curve) && (
            <Button onClick={() => onNudge(curve.best)}>
              Look {plural(Math.abs(curve.best), 'frame')} {curve.best > 0 ? 'later' : 'earlier'}
            </Button>
          )}
          {alike && (
            <Button onClick={alike.onConfirm} title={`All that are likely for the same reason: ${alike.doubt}`}>
              {alike.all ? `Confirm all ${number(alike.count)} likely` : `Confirm the ${number(alike.count)} like it`} <Kbd>C</Kbd>
            </Button>
          )}
          {settled ? (
            <Button onClick={onClear}>Clear decision</Button>
          ) : link.state !== 'none-needed' ? (
            <Button onClick={onNone}>None needed</Button>
          ) : (
            <>
              {event.kind === 'camera' && <Button onClick={onClear}>Clear decision</Button>}
              {event.kind !== 'camera' && event.kind !== 'black' && event.kind !== 'bars' && <Button onClick={onCamera}>It is a camera's</Button>}
            </>
          )}
        </div>
      </div>
      <div className="col-span-2 flex h-[52px] items-center gap-3 border-t border-r border-line px-2">
        <span className="w-[92px] flex-none text-xs text-ink-3">likeness by offset, frames</span>
        <div className="min-w-0 flex-1">
          {curve && curve.curve.length > 0 ? (
            <Curve points={curve.curve} best={curve.best} nudge={nudge} />
          ) : (
            <span className="text-xs text-ink-3">
              {isFetching
                ? 'comparing frames ...'
                : !picture
                  ? 'only pictures are compared'
                  : (curve?.message ?? (own ? 'nothing to compare' : "needs the edit's own pictures"))}
            </span>
          )}
        </div>
      </div>
    </div>
  )
}

interface ThreeProps {
  cut: CutDetail
  event: EventShape
  candidate: CandidateShape | undefined
  clip: Pick<ClipDetail, 'rate' | 'frames'> | undefined
  viewing: Viewing
  choice: ReactNode
}

/** First, middle and last at once: the edit's pictures above, the candidate's below, and under each pair how alike it is. */
function Three({ cut, event, candidate, clip, viewing, choice }: ThreeProps) {
  return (
    <div className="col-span-2 flex min-h-0 flex-col border-r border-line">
      <div className="flex h-8 flex-none items-center justify-between px-2">
        <span>
          Edit's pictures above <span className="text-ink-3">{candidate ? `${candidate.place}${candidate.name} below` : 'no candidate'}</span>
        </span>
        {choice}
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-3 gap-x-1">
        {places.map((at) => {
          const k = pointsOf(event)[at]
          const frame = candidate && clip ? frameShown(event.speed, candidate, clip.rate, cut.rate, k) : 0
          const inside = clip !== undefined && frame >= 0 && frame < clip.frames
          return (
            <figure key={at} className="m-0 flex min-h-0 min-w-0 flex-col">
              <Well url={hasPictures(cut) ? editStill(cut.id, event.id, k, 480) : null} alt={`The edit, ${at} frame`} words="no picture of the edit" />
              <div className="h-px flex-none bg-line" />
              <Well
                url={candidate && inside ? addressOf(routes.clipStill, { clipId: candidate.clipId, frame, width: 480, viewing }) : null}
                alt={`${candidate?.name ?? ''}, ${at} frame`}
                words={candidate ? 'outside the original' : 'no candidate'}
              />
              <figcaption className="mono flex flex-none justify-between gap-2 px-2 py-1 whitespace-nowrap text-ink-2">
                <span>
                  {at}, frame {frame}
                </span>
                <Alike
                  ask={candidate && hasPictures(cut) && inside ? { cutId: cut.id, event: event.id, at, viewing } : null}
                  clipId={candidate?.clipId ?? ''}
                />
              </figcaption>
            </figure>
          )
        })}
      </div>
    </div>
  )
}

/** How alike one pair is, and by how many frames it would be more so. */
function Alike({ ask, clipId }: { ask: { cutId: string; event: string; at: At; viewing: Viewing } | null; clipId: string }) {
  const { currentData: curve, isFetching } = api.useLikenessQuery({ cutId: '', event: '', at: 'middle', viewing: 'originals', ...ask, clipId }, { skip: !ask })
  const now = curve?.curve.find((p) => p.offset === 0)?.likeness
  if (now === undefined) return <span className="text-ink-3">{isFetching ? 'comparing' : ''}</span>
  const off = curve?.best ?? 0
  return (
    <span className={off === 0 ? '' : 'text-lemon'}>
      {perCent(now)}
      {off !== 0 && `, ${off > 0 ? '+' : ''}${off}`}
    </span>
  )
}

/** A candidate with its likeness to the edit's picture; of several the first four are compared without being asked for. */
function CandidateItem({
  c,
  number,
  counted,
  chosen,
  onChoose,
  ask,
}: {
  c: CandidateShape
  number: number
  /** How it was counted, where its clip is a candidate twice. */
  counted: string | null
  chosen: boolean
  onChoose: () => void
  ask: { cutId: string; event: string; at: At; viewing: Viewing } | null
}) {
  const { currentData: curve, isFetching } = api.useLikenessQuery(
    { cutId: '', event: '', at: 'middle', viewing: 'originals', ...ask, clipId: c.clipId, ...(counted ? { from: c.range.in } : {}) },
    { skip: !ask },
  )
  const current = curve?.curve.find((p) => p.offset === 0)?.likeness
  const best = Math.max(0, ...(curve?.curve.map((p) => p.likeness) ?? []))
  const off = curve?.best ?? 0
  return (
    <li>
      <button
        type="button"
        aria-pressed={chosen}
        onClick={onChoose}
        className={`flex w-full items-center gap-2 rounded-md px-2 py-1 text-left ${chosen ? 'bg-raised shadow-[inset_0_0_0_1px_var(--ink-2)]' : 'hover:bg-raised'}`}
      >
        <Kbd>{number}</Kbd>
        <span className="min-w-0 flex-1">
          <span className="flex justify-between gap-2" title={`${c.place}${c.name}`}>
            <span className="truncate">{c.name}</span>
            <span className="flex-none text-ink-3">{current !== undefined ? `likeness ${perCent(current)}` : isFetching && 'comparing'}</span>
          </span>
          <span className="block truncate text-ink-3">{counted ?? c.place}</span>
          {c.light && <span className="block text-lemon">a light copy{c.light.standing === 'suspected' ? '?' : ''}</span>}
          {current !== undefined && off !== 0 && (
            <span className="block text-ink-3">
              {best > 0.6 ? `more alike ${plural(Math.abs(off), 'frame')} ${off > 0 ? 'later' : 'earlier'}` : 'no frame near it is more alike'}
            </span>
          )}
        </span>
      </button>
    </li>
  )
}

function Well({ url, alt, words }: { url: string | null; alt: string; words: string }) {
  const [failed, setFailed] = useState<string | null>(null)
  return (
    <div className="relative flex min-h-0 flex-1 items-center justify-center bg-well">
      {url && failed !== url ? (
        <img key={url} src={url} alt={alt} className="absolute inset-0 h-full w-full object-contain" onError={() => setFailed(url)} />
      ) : (
        <p className="m-0 max-w-[70%] text-center text-[#bcbcbc]">{url ? 'This frame cannot be shown: its file is away or cannot be decoded.' : words}</p>
      )}
    </div>
  )
}

const offsetText = (n: number): string => `${n > 0 ? '+' : n < 0 ? '−' : ''}${Math.abs(n)}`
/** Whether another frame than the one the evidence names is more alike, and alike at all. */
function likelier({ curve, best }: { readonly curve: readonly { offset: number; likeness: number }[]; readonly best: number }): boolean {
  const at = (offset: number) => curve.find((p) => p.offset === offset)?.likeness ?? 0
  return at(best) > 0.6 && at(best) - at(0) > 0.005
}

function Curve({ points, best, nudge }: { points: { offset: number; likeness: number }[]; best: number; nudge: number }) {
  const draw: Draw = useCallback(
    (g, w, h, colour) => {
      const low = Math.min(...points.map((p) => p.likeness))
      const x = (o: number) => ((o + 50) / 100) * (w - 120) + 30
      const y = (l: number) => h - 4 - ((l - low) / Math.max(0.02, 1 - low)) * (h - 10)
      g.strokeStyle = colour('ink')
      g.lineWidth = 1.5
      g.beginPath()
      for (const p of points) g.lineTo(x(p.offset), y(p.likeness))
      g.stroke()
      g.fillStyle = colour('line')
      g.fillRect(x(0), 0, 1, h)
      g.fillStyle = colour(best === 0 ? 'leaf' : 'lemon')
      g.fillRect(x(best) - 1, 0, 2, h)
      if (nudge !== 0) {
        // Where it is looked at now.
        g.fillStyle = colour('ink')
        g.beginPath()
        g.moveTo(x(nudge), h - 10)
        g.lineTo(x(nudge) - 4, h - 2)
        g.lineTo(x(nudge) + 4, h - 2)
        g.fill()
      }
      g.font = '11px "JetBrains Mono Variable", monospace'
      g.textBaseline = 'middle'
      g.fillStyle = colour('ink-3')
      g.fillText('−50', 2, h - 8)
      g.fillText('+50', w - 86, h - 8)
      g.fillStyle = colour('ink-2')
      const l = points.find((p) => p.offset === best)?.likeness ?? 0
      const text = `${best > 0 ? '+' : ''}${best}: ${perCent(l)}`
      g.fillText(text, Math.min(x(best) + 6, w - 82), 8)
    },
    [points, best, nudge],
  )
  return <Canvas height={44} draw={draw} label={`Likeness by offset: best at ${best} frames, looked at ${nudge}`} />
}

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
