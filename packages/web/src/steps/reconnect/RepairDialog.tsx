/** A repair of many events at once: another reel, a shift of timecode, or both; what would land is counted before it holds. */
import type { CutDetail, LaneClip, LinkRow, MatchRule, MatchRules } from '@naranja/contract'
import { isNoReel } from '@naranja/core/naming'
import { digitsAt, framesOf, nominal, parseTimecode, timecodeText } from '@naranja/core/time'
import { useEffect, useMemo, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Dialog, inputLook, number, plural } from '../../ui/index.ts'
import { openLink } from '../cutlists/index.ts'
import { namedBy, provenReels, rollsOf, wouldLand } from './landing.ts'

/** Open events that a repair is meant for: those of one reel; without a reel, one alone. */
export interface Group {
  readonly name: string
  readonly reel: string | null
  readonly eventIds: readonly string[]
}

/** Open events, or only those in one state, by their reels, most first. */
export function groupsOf(cut: CutDetail, byId: ReadonlyMap<string, LinkRow>, state?: LinkRow['state']): Group[] {
  const groups = new Map<string, { reel: string | null; ids: string[]; name: string }>()
  for (const e of cut.events) {
    const l = byId.get(e.id)
    if (!l || l.state === 'none-needed' || (state ? l.state !== state : !openLink({ ...l, away: false }))) continue
    const alone = isNoReel(e.reel)
    const key = alone ? `name ${e.clipName ?? e.id}` : `reel ${e.reel?.toLowerCase()}`
    const g = groups.get(key) ?? { reel: alone ? null : e.reel, ids: [], name: alone ? (e.clipName ?? `event ${e.number}`) : `reel ${e.reel}` }
    g.ids.push(e.id)
    groups.set(key, g)
  }
  return [...groups.values()].map((g) => ({ name: g.name, reel: g.reel, eventIds: g.ids })).sort((a, b) => b.eventIds.length - a.eventIds.length)
}

/** Frames of a cut as a signed timecode. */
export const shiftText = (frames: number, cut: CutDetail): string => `${frames < 0 ? '−' : '+'}${timecodeText(digitsAt(Math.abs(frames), cut.rate, false))}`

/** Reads `-01:00:00:00`, `+12`, `12`; null for anything else. */
function readShift(text: string, cut: CutDetail): number | null {
  const t = /^\s*([+\-−]?)\s*(.+?)\s*$/.exec(text)
  if (!t) return null
  const sign = t[1] === '-' || t[1] === '−' ? -1 : 1
  if (/^\d{1,8}$/.test(t[2] ?? '')) return sign * Number(t[2])
  const label = parseTimecode(t[2] ?? '')
  const frames = label && label.f < nominal(cut.rate) ? framesOf({ ...label, drop: false }, cut.rate) : null
  return frames === null ? null : sign * frames + 0
}

interface Props {
  cut: CutDetail
  byId: ReadonlyMap<string, LinkRow>
  lanes: readonly LaneClip[]
  /** Where it begins: by a drag, or the group with the most events. */
  start: { readonly group: Group | null; readonly lane: string | null; readonly shift: number | null }
  onClose: () => void
}

export function RepairDialog({ cut, byId, lanes, start, onClose }: Props) {
  const projectId = useProjectId()
  const groups = useMemo(() => groupsOf(cut, byId), [cut, byId])
  const [name, setName] = useState(start.group?.name ?? groups[0]?.name ?? '')
  const group = groups.find((g) => g.name === name)
  const [lane, setLane] = useState(start.lane ?? '')
  const rolls = useMemo(() => rollsOf(lanes, cut), [lanes, cut])
  const events = useMemo(() => (group ? namedBy(cut, group) : []), [cut, group])
  const to = rolls.find((r) => r.name === lane)?.reel ?? null
  /** What each roll would bring, so that nobody has to try them one by one. */
  const offers = useMemo(
    () =>
      new Map(
        rolls.flatMap((r) => {
          const best = r.reel ? wouldLand(events, group?.reel ?? null, cut.rate, [r], r.name).best : null
          return best ? [[r.name, `${best.lands} of ${events.length} land${best.frames ? ` with ${shiftText(best.frames, cut)}` : ''}`] as const] : []
        }),
      ),
    [rolls, group, events, cut],
  )
  const suggested = useMemo(() => wouldLand(events, group?.reel ?? null, cut.rate, rolls, lane || null), [cut, events, group, rolls, lane])
  const [typed, setTyped] = useState(start.shift ? shiftText(start.shift, cut) : '')
  const shift = typed.trim() === '' ? 0 : readShift(typed, cut)
  const { data: kept } = api.useMatchRulesQuery(projectId)
  const added = useMemo((): MatchRule[] => {
    if (!group || shift === null) return []
    const keys = group.eventIds.flatMap((id) => byId.get(id)?.key ?? [])
    const scope: Extract<MatchRule, { kind: 'shift' }>['of'] | null = group.reel
      ? { kind: 'reels', reels: [group.reel] }
      : keys.length
        ? { kind: 'events', keys }
        : null
    return [
      ...(to && group.reel && to.toLowerCase() !== group.reel.toLowerCase()
        ? [{ id: `reel ${group.reel} ${to}`.slice(0, 60), on: true, kind: 'reels' as const, pairs: [{ from: group.reel, to }] }]
        : []),
      ...(shift !== 0 && scope ? [{ id: `shift ${Date.now().toString(36)}`, on: true, kind: 'shift' as const, frames: shift, of: scope }] : []),
    ]
  }, [group, to, shift, byId])
  const rules = useMemo(() => [...(kept?.rules.filter((r) => !added.some((a) => a.id === r.id)) ?? []), ...added], [kept, added])
  const [asked, setAsked] = useState<MatchRule[] | null>(null)
  useEffect(() => {
    const timer = setTimeout(() => setAsked(rules), 200)
    return () => clearTimeout(timer)
  }, [rules])
  const { currentData: seen, error } = api.usePreviewRulesQuery({ cutId: cut.id, rules: asked ?? [] }, { skip: asked === null || added.length === 0 })
  const landed = seen?.changed.filter((c) => group?.eventIds.includes(c.eventId) && c.after.includes('frames')).length ?? 0
  const others = seen ? seen.changedInAll - seen.changed.filter((c) => group?.eventIds.includes(c.eventId)).length : 0
  const [set, { isLoading }] = api.useSetMatchRulesMutation()
  const act = useAct()
  const proofs = useMemo(() => (start.group ? [] : provenReels(cut, groups, rolls)), [start.group, cut, groups, rolls])
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const chosen = proofs.filter((p) => !left.has(p.group))
  const landing = chosen.reduce((n, p) => n + p.events, 0)
  /** A rule of mine goes to the others, also to those that somebody made meanwhile. */
  const put = async (wanted: MatchRule[]) => {
    if (!kept) return null
    const own = wanted.filter((r) => !kept.rules.some((k) => JSON.stringify(k) === JSON.stringify(r)))
    return act(
      set({ projectId: projectId, rules: wanted, version: kept.version }),
      (c) => c.sentence,
      projectId,
      (now: MatchRules) => set({ projectId: projectId, rules: [...now.rules.filter((r) => !own.some((o) => o.id === r.id)), ...own], version: now.version }),
    )
  }
  const repairProven = async () => {
    if (!kept) return
    const pairs = chosen.map((p) => ({ from: p.from, to: p.to }))
    const id = `reels ${pairs.map((p) => p.from).join(' ')}`.slice(0, 60)
    const all: MatchRule[] = [...kept.rules.filter((r) => r.id !== id), { id, on: true, kind: 'reels', pairs }]
    if (await put(all)) onClose()
  }
  return (
    <Dialog open onClose={onClose} title="Repair" wide>
      {proofs.length > 0 && (
        <section aria-label="Proven by timecode" className="border-b border-line px-4 py-3">
          <p className="m-0 mb-2">
            <b className="font-[650]">
              {plural(chosen.length, 'reel')}: {number(landing)} of {number(landing)} events land
            </b>{' '}
            <span className="text-ink-2">by timecode alone: all of their events lie inside one roll, and inside no other.</span>
          </p>
          <ul className="m-0 mb-2 flex max-h-[150px] list-none flex-col gap-1 overflow-auto p-0">
            {proofs.map((p) => (
              <li key={p.group}>
                <label className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    className="accent-zest"
                    checked={!left.has(p.group)}
                    onChange={(e) => setLeft(new Set(e.target.checked ? [...left].filter((g) => g !== p.group) : [...left, p.group]))}
                  />
                  <span className="mono">{p.from}</span> is <span className="mono">{p.to}</span>
                  <span className="text-ink-2">
                    {p.roll === p.to ? '' : `roll ${p.roll}, `}
                    {number(p.events)} of {number(p.events)} land
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <Button main disabled={chosen.length === 0 || !kept || isLoading} onClick={() => void repairProven()}>
            Repair {plural(chosen.length, 'reel')}
          </Button>
        </section>
      )}
      <div className="grid grid-cols-[150px_minmax(0,1fr)] items-center gap-x-4 gap-y-3 px-4 py-3">
        <span className="text-ink-2">Open events</span>
        <select
          aria-label="Open events"
          className={`${inputLook} w-auto max-w-[360px] justify-self-start`}
          value={name}
          onChange={(e) => setName(e.target.value)}
        >
          {groups.map((g) => (
            <option key={g.name} value={g.name}>
              {g.name}: {plural(g.eventIds.length, 'event')}
            </option>
          ))}
        </select>
        <span className="text-ink-2">Their reel is</span>
        <select
          aria-label="Roll they belong to"
          className={`${inputLook} w-auto max-w-[360px] justify-self-start`}
          value={lane}
          onChange={(e) => setLane(e.target.value)}
        >
          <option value="">as the list says{group?.reel ? `: ${group.reel}` : ''}</option>
          {rolls.map((r) => (
            <option key={r.name} value={r.name} disabled={!r.reel}>
              {r.name}
              {r.reel && r.reel !== r.name ? `, reel ${r.reel}` : ''}
              {offers.has(r.name) ? `: ${offers.get(r.name)}` : ''}
            </option>
          ))}
        </select>
        <label htmlFor="repair shift" className="text-ink-2">
          Their timecode is
        </label>
        <span className="flex flex-wrap items-center gap-2">
          <input
            id="repair shift"
            className={`${inputLook} mono w-[150px]`}
            placeholder="+00:00:00:00"
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            aria-invalid={shift === null}
          />
          <span className="text-ink-2">later than the list says</span>
          {suggested.best && suggested.best.frames !== shift && (
            <Button onClick={() => setTyped(suggested.best && suggested.best.frames !== 0 ? shiftText(suggested.best.frames, cut) : '')}>
              {suggested.best.frames === 0 ? 'no shift' : shiftText(suggested.best.frames, cut)}: {number(suggested.best.lands)} of {number(events.length)} lie
              inside
            </Button>
          )}
        </span>
      </div>
      <div aria-live="polite" className="border-t border-line px-4 py-3">
        {shift === null ? (
          <p className="m-0 text-pomegranate">"{typed}" is neither a timecode nor a number of frames. Write it as -01:00:00:00 or +12.</p>
        ) : error ? (
          <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>
        ) : added.length === 0 ? (
          <p className="m-0 text-ink-2">Choose a roll or write a shift.</p>
        ) : !seen ? (
          <p className="m-0 text-ink-3">Counting.</p>
        ) : (
          <p className="m-0">
            <b className="font-[650]">
              {number(landed)} of {number(group?.eventIds.length ?? 0)}
            </b>{' '}
            would land{others > 0 ? `, and ${plural(others, 'other event')} would change` : ''}.
          </p>
        )}
      </div>
      <div className="flex justify-end gap-2 border-t border-line px-4 py-2.5">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          main={proofs.length === 0}
          disabled={added.length === 0 || !kept || isLoading || shift === null}
          onClick={async () => {
            if (await put(rules)) onClose()
          }}
        >
          Repair {plural(group?.eventIds.length ?? 0, 'event')}
        </Button>
      </div>
    </Dialog>
  )
}
