/** The candidates of an event, each with how alike it is to the edit's picture, and the evidence for the one that is looked at. */
import type { CandidateShape } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { api } from '../../api/index.ts'
import { useViewing } from '../../state/index.ts'
import { Kbd, NoticeMark, perCent, plural } from '../../ui/index.ts'
import { standingWords } from './LightDialog.tsx'
import type { Look } from './look.ts'
import { asked, isTwice, type Pair } from './pairOf.ts'

/** Of several the first of these are compared without being asked for. */
const comparedUnasked = 4

export function Candidates({ pair, look }: { pair: Pair; look: Look }) {
  const { link, compared } = pair
  return (
    <ol data-candidates aria-label={link.state === 'not-found' ? 'Nearest originals' : 'Candidates'} className="m-0 flex list-none flex-col gap-0.5 p-0">
      {link.candidates.map((c, i) => (
        <Item
          key={`${c.clipId} ${c.range.in}`}
          pair={pair}
          c={c}
          number={i + 1}
          chosen={i === look.chosen}
          onChoose={() => look.choose(i)}
          compare={compared && (i === look.chosen || ((link.state === 'several' || isTwice(link, c)) && i < comparedUnasked))}
        />
      ))}
    </ol>
  )
}

interface ItemProps {
  pair: Pair
  c: CandidateShape
  number: number
  chosen: boolean
  onChoose: () => void
  compare: boolean
}

function Item({ pair, c, number, chosen, onChoose, compare }: ItemProps) {
  const viewing = useViewing()
  const { currentData: curve, isFetching } = api.useLikenessQuery(compare ? asked(pair, c, viewing) : skipToken)
  const current = curve?.curve.find((p) => p.offset === 0)?.likeness
  const best = Math.max(0, ...(curve?.curve.map((p) => p.likeness) ?? []))
  const off = curve?.best ?? 0
  const counted = isTwice(pair.link, c) ? `frame ${c.range.in} on, counted at the ${c.countedAt === 'source' ? "original's" : "list's"} rate` : null
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

/** What speaks for the candidate and against it, each with its sign and its sentence. */
export function Reasons({ candidate }: { candidate: CandidateShape | undefined }) {
  return (
    <>
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
    </>
  )
}
