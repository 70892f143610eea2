/** The pictures of a pair: one frame of the edit beside the candidate's, or first, middle and last at once. */
import { addressOf, routes } from '@naranja/contract'
import { formatFrames } from '@naranja/core/time'
import { skipToken } from '@reduxjs/toolkit/query'
import { type ReactNode, useState } from 'react'
import { api } from '../../api/index.ts'
import { useViewing } from '../../state/index.ts'
import { Choice, perCent, rateName } from '../../ui/index.ts'
import { editStill } from '../cutlists/index.ts'
import type { At, Look } from './look.ts'
import { asked, type Pair, pairOf } from './pairOf.ts'

const places: readonly At[] = ['first', 'middle', 'last']

/** One pair, large. `shownAs` says what the candidate's picture is made from, once it is known. */
export function Beside({ pair, look, shownAs }: { pair: Pair; look: Look; shownAs: string | undefined }) {
  const { cut, event, k } = pair
  const timecode = formatFrames(event.recordIn + k, cut.rate, cut.drop)
  const from = cut.reference ? `reference, frame ${event.recordIn - cut.start + k}` : cut.copies ? `light copy, frame ${k} of the event` : 'none'
  return (
    <>
      <figure className="m-0 flex min-h-0 flex-col border-r border-line">
        <figcaption className="flex h-8 flex-none items-center justify-between px-2 whitespace-nowrap">
          <span>
            Edit's picture <span className="text-ink-3">{from}</span>
          </span>
          <FrameChoice look={look} />
        </figcaption>
        <Well
          url={pair.compared ? editStill(cut.id, event.id, k, 960) : null}
          alt={`The edit at ${timecode}`}
          words={event.medium === 'picture' ? "Choose the edit's own pictures in Cut lists to compare with." : 'A sound event has no picture.'}
        />
        <div className="mono flex flex-none justify-between px-2 py-1 text-ink-2">
          <span>{timecode}</span>
          <span className="overflow-hidden text-ellipsis">
            {event.clipName} · reel {event.reel}
          </span>
        </div>
      </figure>
      <CandidatePicture pair={pair} look={look} shownAs={shownAs} />
    </>
  )
}

function CandidatePicture({ pair: { link, candidate, clip, frame, shown }, look, shownAs }: { pair: Pair; look: Look; shownAs: string | undefined }) {
  const viewing = useViewing()
  const one = viewing.replace(/(ie)?s$/, (m) => (m === 'ies' ? 'y' : ''))
  return (
    <figure className="m-0 flex min-h-0 flex-col border-r border-line">
      <figcaption className="flex h-8 flex-none items-center justify-between px-2 whitespace-nowrap">
        <span>
          {candidate ? `${link.state === 'not-found' ? 'Nearest' : 'Candidate'} ${look.chosen + 1}` : 'No candidate'}{' '}
          {candidate?.light ? <span className="text-lemon">a light copy</span> : <span className="text-ink-3">{shownAs ?? (candidate ? one : '')}</span>}
        </span>
        <span className="overflow-hidden text-ellipsis text-ink-2">
          {clip && `${clip.hasPicture ? `${clip.width}×${clip.height} · ` : ''}${rateName(clip.rate)} · ${clip.codec}`}
        </span>
      </figcaption>
      <Well
        url={candidate && clip?.hasPicture && shown ? addressOf(routes.clipStill, { clipId: candidate.clipId, frame, width: 960, viewing }) : null}
        alt={`${candidate?.name}, frame ${frame}`}
        words={
          !candidate
            ? 'Nothing fits. Look for the original, or say that none is needed.'
            : !clip
              ? ''
              : shown
                ? 'This original has no picture.'
                : 'This frame lies outside the original.'
        }
      />
      <div className="mono flex flex-none justify-between gap-3 px-2 py-1 whitespace-nowrap text-ink-2">
        <span>
          {candidate && `frame ${frame}`}
          {look.nudge !== 0 && (
            <span className="text-lemon">
              {' '}
              {look.nudge > 0 ? '+' : '−'}
              {Math.abs(look.nudge)}
            </span>
          )}
        </span>
        <span className="overflow-hidden text-ellipsis" title={`${candidate?.place}${candidate?.name}`}>
          {candidate && `${candidate.place}${candidate.name}`}
        </span>
      </div>
    </figure>
  )
}

/** First, middle and last at once: the edit's pictures above, the candidate's below, and under each pair how alike it is. */
export function Three({ pair, look }: { pair: Pair; look: Look }) {
  const viewing = useViewing()
  const { cut, event, candidate } = pair
  return (
    <div className="col-span-2 flex min-h-0 flex-col border-r border-line">
      <div className="flex h-8 flex-none items-center justify-between px-2">
        <span>
          Edit's pictures above <span className="text-ink-3">{candidate ? `${candidate.place}${candidate.name} below` : 'no candidate'}</span>
        </span>
        <FrameChoice look={look} />
      </div>
      <div className="grid min-h-0 flex-1 grid-cols-3 gap-x-1">
        {places.map((at) => {
          const one = pairOf(pair, at)
          return (
            <figure key={at} className="m-0 flex min-h-0 min-w-0 flex-col">
              <Well url={one.compared ? editStill(cut.id, event.id, one.k, 480) : null} alt={`The edit, ${at} frame`} words="no picture of the edit" />
              <div className="h-px flex-none bg-line" />
              <Well
                url={candidate && one.inside ? addressOf(routes.clipStill, { clipId: candidate.clipId, frame: one.frame, width: 480, viewing }) : null}
                alt={`${candidate?.name ?? ''}, ${at} frame`}
                words={candidate ? 'outside the original' : 'no candidate'}
              />
              <figcaption className="mono flex flex-none justify-between gap-2 px-2 py-1 whitespace-nowrap text-ink-2">
                <span>
                  {at}, frame {one.frame}
                </span>
                <Alike pair={one} />
              </figcaption>
            </figure>
          )
        })}
      </div>
    </div>
  )
}

/** How alike one pair is, and by how many frames it would be more so. */
function Alike({ pair }: { pair: Pair }) {
  const viewing = useViewing()
  const { candidate, compared, inside } = pair
  const { currentData: curve, isFetching } = api.useLikenessQuery(candidate && compared && inside ? asked(pair, candidate, viewing) : skipToken)
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

const FrameChoice = ({ look }: { look: Look }): ReactNode => (
  <Choice
    label="Frame of the event"
    value={look.three ? 'all' : look.at}
    onChange={look.see}
    options={[
      ['first', 'first'],
      ['middle', 'middle'],
      ['last', 'last'],
      ['all', 'all three'],
    ]}
  />
)

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
