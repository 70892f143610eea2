/** The rules of reconnection: a short list in order, each with what it decides and what it changes, seen before it holds. */
import type { MatchRule, RulesPreview, MatchRules } from '@naranja/contract'
import { ruleText } from '@naranja/core/reconnect'
import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react'
import { type ReactNode, useEffect, useMemo, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Dialog, number, plural, Select } from '../../ui/index.ts'
import { offered } from './newRules.ts'
import { type Some, Editor } from './RuleEditor.tsx'

export function RulesDialog({ cutId, some, onClose }: { cutId: string; some: readonly Some[]; onClose: () => void }) {
  const projectId = useProjectId()
  const { data } = api.useMatchRulesQuery(projectId)
  // What was changed here was changed of one version: of another it is not kept.
  const [edited, setEdited] = useState<{ readonly rules: readonly MatchRule[]; readonly version: number } | null>(null)
  const [open, setOpen] = useState<string | null>(null)
  const draft = edited?.rules ?? data?.rules ?? null
  const rules = draft ?? []
  const setDraft = (list: readonly MatchRule[]) => data && setEdited((e) => ({ rules: list, version: e?.version ?? data.version }))
  // Counted a moment after the last key.
  const [asked, setAsked] = useState<readonly MatchRule[] | null>(null)
  useEffect(() => {
    const timer = setTimeout(() => setAsked(draft), 250)
    return () => clearTimeout(timer)
  }, [draft])
  const { data: seen, isFetching, error } = api.usePreviewRulesQuery({ cutId, rules: [...(asked ?? [])] }, { skip: asked === null })
  const counts = useMemo(() => new Map(seen?.rules.map((r) => [r.id, r]) ?? []), [seen])
  const [set, { isLoading }] = api.useSetMatchRulesMutation()
  const act = useAct()
  const change = (id: string, to: MatchRule) => setDraft(rules.map((r) => (r.id === id ? to : r)))
  const move = (i: number, by: 1 | -1) => {
    const list = [...rules]
    const [r] = list.splice(i, 1)
    if (r) list.splice(i + by, 0, r)
    setDraft(list)
  }
  const changed = edited !== null && data !== undefined && JSON.stringify(edited.rules) !== JSON.stringify(data.rules)
  const keep = async () => {
    if (!edited) return
    const mine = { projectId, rules: [...edited.rules], version: edited.version }
    const done = await act(
      set(mine),
      (c) => c.sentence,
      projectId,
      (now: MatchRules) => set({ ...mine, version: now.version }),
    )
    if (done) onClose()
  }
  return (
    <Dialog open onClose={onClose} title="Rules" wide>
      <div className="min-h-0 flex-1 overflow-auto px-4 py-2">
        {rules.length === 0 && (
          <p className="m-0 py-3 text-ink-2">
            Names that differ in case, ending, padding or length, and reels that were cut off, are found without a rule. A rule says what only you know: that a
            reel had another name, that a clock was wrong, where the files are now.
          </p>
        )}
        <ol aria-label="Rules" className="m-0 list-none p-0">
          {rules.map((r, i) => (
            <RuleLine
              key={r.id}
              rule={r}
              place={i + 1}
              last={i === rules.length - 1}
              open={open === r.id}
              effect={<Effect counted={counts.get(r.id)} on={r.on} waiting={isFetching} />}
              onOpen={() => setOpen(open === r.id ? null : r.id)}
              onMove={(by) => move(i, by)}
              onChange={(to) => change(r.id, to)}
              onRemove={() => setDraft(rules.filter((x) => x !== r))}
              some={some}
            />
          ))}
        </ol>
        <label className="mt-2 inline-flex items-center gap-2 text-ink-2">
          <Plus size={13} aria-hidden />
          <Select
            label="Add a rule"
            disabled={draft === null}
            value=""
            onChange={(v: string) => {
              const rule = offered.find(([k]) => k === v)?.[2]()
              if (!rule) return
              setDraft([...rules, rule])
              setOpen(rule.id)
            }}
          >
            <option value="">Add a rule ...</option>
            {offered.map(([k, words]) => (
              <option key={k} value={k}>
                {words}
              </option>
            ))}
          </Select>
        </label>
      </div>
      {seen && seen.changedInAll > 0 && changed && <WouldChange seen={seen} />}
      <div className="flex items-center justify-end gap-3 border-t border-line px-4 py-2.5">
        <span aria-live="polite" className="mr-auto text-ink-2">
          {error
            ? refusal(error)?.message
            : seen &&
              `${number(Object.entries(seen.states).reduce((n, [s, k]) => (s === 'several' || s === 'not-found' ? n + k : n), 0))} open with these rules`}
        </span>
        <Button onClick={onClose}>Cancel</Button>
        <Button main disabled={!changed || isLoading || !data} onClick={() => void keep()}>
          Keep rules
        </Button>
      </div>
    </Dialog>
  )
}

interface LineProps {
  rule: MatchRule
  /** Counted from 1. */
  place: number
  last: boolean
  open: boolean
  effect: ReactNode
  some: readonly Some[]
  onOpen: () => void
  onMove: (by: 1 | -1) => void
  onChange: (rule: MatchRule) => void
  onRemove: () => void
}

/** One rule in the list: what it says and does, its place, and, opened, what can be changed of it. */
function RuleLine({ rule: r, place, last, open, effect, some, onOpen, onMove, onChange, onRemove }: LineProps) {
  return (
    <li className="border-b border-line/70 py-2 last:border-0">
      <div className="flex items-center gap-2.5">
        <input
          type="checkbox"
          aria-label={`Rule ${place} is on`}
          className="accent-zest"
          checked={r.on}
          onChange={(e) => onChange({ ...r, on: e.target.checked })}
        />
        <button type="button" aria-expanded={open} className={`min-w-0 flex-1 text-left hover:text-ink ${r.on ? '' : 'text-ink-3'}`} onClick={onOpen}>
          {ruleText(r)}
        </button>
        {effect}
        <Button quiet aria-label={`Rule ${place} earlier`} disabled={place === 1} className="px-1" onClick={() => onMove(-1)}>
          <ArrowUp size={13} aria-hidden />
        </Button>
        <Button quiet aria-label={`Rule ${place} later`} disabled={last} className="px-1" onClick={() => onMove(1)}>
          <ArrowDown size={13} aria-hidden />
        </Button>
        <Button quiet aria-label={`Remove rule ${place}`} className="px-1" onClick={onRemove}>
          <X size={13} aria-hidden />
        </Button>
      </div>
      {open && <Editor rule={r} some={some} onChange={onChange} />}
    </li>
  )
}

/** The events that the rules, as they are being changed, would change. */
const WouldChange = ({ seen }: { seen: RulesPreview }) => (
  <div className="max-h-[30%] flex-none overflow-auto border-t border-line px-4 py-2">
    <p className="m-0 text-ink-2">{plural(seen.changedInAll, 'event')} would change:</p>
    <ul aria-label="Events that would change" className="m-0 mt-1 list-none p-0">
      {seen.changed.slice(0, 100).map((c) => (
        <li key={c.eventId} className="flex gap-3">
          <span className="mono w-[70px] flex-none">
            {c.track} {c.number}
          </span>
          <span className="text-ink-3">{c.before}</span>
          <span aria-hidden>→</span>
          <span>{c.after}</span>
        </li>
      ))}
    </ul>
  </div>
)

function Effect({ counted, on, waiting }: { counted: RulesPreview['rules'][number] | undefined; on: boolean; waiting: boolean }) {
  if (!counted) return <span className="text-ink-3">{waiting ? 'counting' : ''}</span>
  const { decides, changes, opens } = counted
  const parts = [decides ? `decides ${number(decides)}` : '', changes ? `changes ${number(changes)}` : '', opens ? `opens ${number(opens)}` : ''].filter(
    Boolean,
  )
  return (
    <span className={`whitespace-nowrap ${on ? 'text-ink-2' : 'text-ink-3'}`}>
      {parts.length ? `${on ? '' : 'would: '}${parts.join(', ')}` : 'does nothing here'}
    </span>
  )
}
