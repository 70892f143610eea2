/** A repair of many events at once: another reel, a shift of timecode, or both; what would land is counted before it holds. */
import type { CutDetail, LaneClip, LinkRow, MatchRule, MatchRules } from '@naranja/contract'
import { useEffect, useMemo, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Dialog, inputLook, number, plural, Select } from '../../ui/index.ts'
import { type Group, groupsOf, readShift, repairRules, shiftText, withRules } from './groups.ts'
import { namedBy, provenReels, rollsOf, wouldLand } from './landing.ts'
import { Proven } from './Proven.tsx'

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
  const added = useMemo(
    () => (group && shift !== null ? repairRules(group, to, shift, byId, `shift ${Date.now().toString(36)}`) : []),
    [group, to, shift, byId],
  )
  const rules = useMemo(() => withRules(kept?.rules ?? [], added), [kept, added])
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
  /** A rule of mine goes to the others, also to those that somebody made meanwhile. */
  const put = async (wanted: MatchRule[]) => {
    if (!kept) return null
    const own = wanted.filter((r) => !kept.rules.some((k) => JSON.stringify(k) === JSON.stringify(r)))
    return act(
      set({ projectId, rules: wanted, version: kept.version }),
      (c) => c.sentence,
      projectId,
      (now: MatchRules) => set({ projectId, rules: withRules(now.rules, own), version: now.version }),
    )
  }
  const repair = async (wanted: MatchRule[]) => {
    if (await put(wanted)) onClose()
  }
  return (
    <Dialog open onClose={onClose} title="Repair" wide>
      {proofs.length > 0 && <Proven proofs={proofs} waits={!kept || isLoading} onRepair={(rule) => void repair(withRules(kept?.rules ?? [], [rule]))} />}
      <div className="grid grid-cols-[150px_minmax(0,1fr)] items-center gap-x-4 gap-y-3 px-4 py-3">
        <span className="text-ink-2">Open events</span>
        <Select label="Open events" className="w-auto max-w-[360px] justify-self-start" value={name} onChange={setName}>
          {groups.map((g) => (
            <option key={g.name} value={g.name}>
              {g.name}: {plural(g.eventIds.length, 'event')}
            </option>
          ))}
        </Select>
        <span className="text-ink-2">Their reel is</span>
        <Select label="Roll they belong to" className="w-auto max-w-[360px] justify-self-start" value={lane} onChange={setLane}>
          <option value="">as the list says{group?.reel ? `: ${group.reel}` : ''}</option>
          {rolls.map((r) => (
            <option key={r.name} value={r.name} disabled={!r.reel}>
              {r.name}
              {r.reel && r.reel !== r.name ? `, reel ${r.reel}` : ''}
              {offers.has(r.name) ? `: ${offers.get(r.name)}` : ''}
            </option>
          ))}
        </Select>
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
        <Button main={proofs.length === 0} disabled={added.length === 0 || !kept || isLoading || shift === null} onClick={() => void repair(rules)}>
          Repair {plural(group?.eventIds.length ?? 0, 'event')}
        </Button>
      </div>
    </Dialog>
  )
}
