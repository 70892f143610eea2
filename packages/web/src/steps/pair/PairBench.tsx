/** The pair bench: the edit's own picture beside a candidate, at first, middle or last frame, and how alike they are. */
import type { CutDetail, EventShape, LinkRow } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { api } from '../../api/index.ts'
import { useViewing } from '../../state/index.ts'
import { Button, Choice, Kbd, NoticeMark, number, plural, StateMark, stateWords } from '../../ui/index.ts'
import { Candidates, Reasons } from './Candidates.tsx'
import { Curve } from './Curve.tsx'
import { FindByPicture } from './FindByPicture.tsx'
import type { Look } from './look.ts'
import { asked, type Pair, pairOf } from './pairOf.ts'
import { Beside, Three } from './Pictures.tsx'
import { whyIn } from './reasons.ts'

/** For which events something is settled. */
export type Scope = 'event' | 'clip' | 'reel'

/** What can be settled about the event that is looked at. */
export interface Settling {
  readonly scope: Scope
  readonly onScope: (scope: Scope) => void
  /** How many events each scope holds. */
  readonly held: Readonly<Record<Scope, number>>
  /** The events that are likely for the same reason as this one: how many they are, and whether all likely ones are among them. */
  readonly alike: { readonly count: number; readonly all: boolean; readonly doubt: string; readonly onConfirm: () => void } | null
  /** Takes the candidate that is looked at, as it is looked at. */
  readonly onTake: () => void
  readonly onConfirm: () => void
  readonly onNone: () => void
  readonly onCamera: () => void
  readonly onClear: () => void
  /** Takes what was found by its pictures, from this frame on. */
  readonly onFound: (clipId: string, first: number) => void
}

interface Props {
  cut: CutDetail
  event: EventShape
  link: LinkRow
  look: Look
  settling: Settling
}

export function PairBench({ cut, event, link, look, settling }: Props) {
  const viewing = useViewing()
  const candidate = link.candidates[look.chosen]
  const { currentData: clip } = api.useClipQuery(candidate?.clipId ?? skipToken)
  const pair = pairOf({ cut, event, link, candidate, clip }, look.at, look.nudge)
  const { currentData: curve, isFetching } = api.useLikenessQuery(candidate && pair.compared && pair.inside ? asked(pair, candidate, viewing) : skipToken)
  const why = whyIn(link, look.chosen)
  const { scope, onScope, held } = settling
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)_minmax(300px,26%)] grid-rows-[minmax(0,1fr)_auto]">
      {look.three && event.medium === 'picture' ? <Three pair={pair} look={look} /> : <Beside pair={pair} look={look} shownAs={curve?.shown} />}
      <div className="row-span-2 flex min-h-0 flex-col gap-1.5 overflow-auto p-3">
        <div className="flex items-center gap-2">
          <StateMark state={link.state} away={link.away} size={16} />
          <b className="font-semibold">
            Event {event.number} on {event.track}: {stateWords[link.state]}
            {link.away && ', away'}
          </b>
        </div>
        {why !== '' && <p className="m-0 text-ink-2">{why}</p>}
        <Candidates pair={pair} look={look} />
        <Reasons candidate={candidate} />
        {curve?.message && (
          <div className="flex gap-2 text-ink-3">
            <NoticeMark severity="info" /> {curve.message}
          </div>
        )}
        {pair.compared && (link.state === 'not-found' || link.state === 'several' || link.state === 'likely') && (
          <FindByPicture cut={cut} event={event} open={look.finding} onOpen={look.find} onTake={settling.onFound} />
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
          <Taking pair={pair} look={look} settling={settling} />
          {curve && curve.best !== 0 && look.nudge !== curve.best && likelier(curve) && (
            <Button onClick={() => look.nudgeTo(curve.best)}>
              Look {plural(Math.abs(curve.best), 'frame')} {curve.best > 0 ? 'later' : 'earlier'}
            </Button>
          )}
          <Others pair={pair} settling={settling} />
        </div>
      </div>
      <div className="col-span-2 flex h-[52px] items-center gap-3 border-t border-r border-line px-2">
        <span className="w-[92px] flex-none text-xs text-ink-3">likeness by offset, frames</span>
        <div className="min-w-0 flex-1">
          {curve && curve.curve.length > 0 ? (
            <Curve points={curve.curve} best={curve.best} nudge={look.nudge} />
          ) : (
            <span className="text-xs text-ink-3">{isFetching ? 'comparing frames ...' : (curve?.message ?? whyNotCompared(pair))}</span>
          )}
        </div>
      </div>
    </div>
  )
}

/** The one thing that Enter does: take the candidate as it is looked at, or confirm it. */
function Taking({ pair: { link, candidate }, look: { chosen, nudge }, settling }: { pair: Pair; look: Look; settling: Settling }) {
  if (!candidate) return null
  const nearest = link.state === 'not-found'
  if (nudge !== 0)
    return (
      <Button main onClick={settling.onTake}>
        Take it {plural(Math.abs(nudge), 'frame')} {nudge > 0 ? 'later' : 'earlier'} <Enter />
      </Button>
    )
  return (
    <>
      {(chosen > 0 || link.state === 'several' || nearest) &&
        (candidate.light ? (
          <Button onClick={settling.onTake}>Use this light copy …</Button>
        ) : (
          <Button main onClick={settling.onTake}>
            Take {nearest ? 'it all the same' : `candidate ${chosen + 1}`} {!nearest && <Enter />}
          </Button>
        ))}
      {link.state === 'likely' && chosen === 0 && (
        <Button main onClick={settling.onConfirm}>
          Confirm <Enter />
        </Button>
      )}
    </>
  )
}

/** What else can be settled: many at once, that no original is needed, or that all is open again. */
function Others({ pair: { link, event }, settling: { alike, onClear, onNone, onCamera } }: { pair: Pair; settling: Settling }) {
  const placed = event.kind === 'black' || event.kind === 'bars'
  return (
    <>
      {alike && (
        <Button onClick={alike.onConfirm} title={`All that are likely for the same reason: ${alike.doubt}`}>
          {alike.all ? `Confirm all ${number(alike.count)} likely` : `Confirm the ${number(alike.count)} like it`} <Kbd>C</Kbd>
        </Button>
      )}
      {link.state === 'set-by-hand' || link.state === 'confirmed' ? (
        <Button onClick={onClear}>Clear decision</Button>
      ) : link.state !== 'none-needed' ? (
        <Button onClick={onNone}>None needed</Button>
      ) : event.kind === 'camera' ? (
        <Button onClick={onClear}>Clear decision</Button>
      ) : (
        !placed && <Button onClick={onCamera}>It is a camera's</Button>
      )}
    </>
  )
}

const Enter = () => <span className="rounded border border-current px-1 font-mono text-[11px]">Enter</span>

const whyNotCompared = ({ event, compared }: Pair): string =>
  event.medium !== 'picture' ? 'only pictures are compared' : compared ? 'nothing to compare' : "needs the edit's own pictures"

/** Whether another frame than the one the evidence names is more alike, and alike at all. */
function likelier({ curve, best }: { readonly curve: readonly { offset: number; likeness: number }[]; readonly best: number }): boolean {
  const at = (offset: number) => curve.find((p) => p.offset === offset)?.likeness ?? 0
  return at(best) > 0.6 && at(best) - at(0) > 0.005
}
