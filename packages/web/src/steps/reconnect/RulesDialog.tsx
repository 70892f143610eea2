/** The rules of reconnection: a short list in order, each with what it decides and what it changes, seen before it holds. */
import type { MatchRule, RulesPreview, MatchRules } from '@naranja/contract'
import { ruleText } from '@naranja/core/reconnect'
import { ArrowDown, ArrowUp, Plus, X } from 'lucide-react'
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { base64Of, Button, Chips, Dialog, inputLook, number, plural } from '../../ui/index.ts'

type Kind = MatchRule['kind']
let made = 0
const newId = (): string => `rule ${Date.now().toString(36)} ${(made++).toString(36)}`

/** Rules that can be added, and what each is for. */
const offered: readonly (readonly [Kind, string, () => MatchRule])[] = [
  ['reels', 'A reel of the list is called otherwise', () => ({ id: newId(), on: true, kind: 'reels', pairs: [{ from: '?', to: '?' }] })],
  ['shift', 'Source timecode is off', () => ({ id: newId(), on: true, kind: 'shift', frames: 0, of: { kind: 'all' } })],
  ['recount', 'Source timecode counts at another rate', () => ({ id: newId(), on: true, kind: 'recount', rate: { num: 25, den: 1 }, of: { kind: 'all' } })],
  ['folder', 'Files stand in another folder now', () => ({ id: newId(), on: true, kind: 'folder', from: '?', to: '?' })],
  [
    'pattern',
    'Read a reel, scene or take from names',
    () => ({
      id: newId(),
      on: true,
      kind: 'pattern',
      side: 'events',
      field: 'scene',
      chips: [{ kind: 'value', of: 'name', part: { kind: 'piece', nth: 1 }, form: 'as-is' }],
    }),
  ],
  ['prefer', 'Of several that fit alike, take one', () => ({ id: newId(), on: true, kind: 'prefer', what: 'here', text: '' })],
  ['only', 'Only some originals come into question', () => ({ id: newId(), on: true, kind: 'only', of: 'place', text: '?' })],
  ['ignore', 'Something in the list is not to be trusted', () => ({ id: newId(), on: true, kind: 'ignore', what: 'reel' })],
  ['needs-none', 'Events with this name need no original', () => ({ id: newId(), on: true, kind: 'needs-none', text: '?', as: 'title' })],
]

/** Events that a rule can be limited to: in words, and by their keys. */
export interface Some {
  readonly words: string
  readonly keys: readonly string[]
}

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
            <li key={r.id} className="border-b border-line/70 py-2 last:border-0">
              <div className="flex items-center gap-2.5">
                <input
                  type="checkbox"
                  aria-label={`Rule ${i + 1} is on`}
                  className="accent-zest"
                  checked={r.on}
                  onChange={(e) => change(r.id, { ...r, on: e.target.checked })}
                />
                <button
                  type="button"
                  aria-expanded={open === r.id}
                  className={`min-w-0 flex-1 text-left hover:text-ink ${r.on ? '' : 'text-ink-3'}`}
                  onClick={() => setOpen(open === r.id ? null : r.id)}
                >
                  {ruleText(r)}
                </button>
                <Effect counted={counts.get(r.id)} on={r.on} waiting={isFetching} />
                <Button quiet aria-label={`Rule ${i + 1} earlier`} disabled={i === 0} className="px-1" onClick={() => move(i, -1)}>
                  <ArrowUp size={13} aria-hidden />
                </Button>
                <Button quiet aria-label={`Rule ${i + 1} later`} disabled={i === rules.length - 1} className="px-1" onClick={() => move(i, 1)}>
                  <ArrowDown size={13} aria-hidden />
                </Button>
                <Button quiet aria-label={`Remove rule ${i + 1}`} className="px-1" onClick={() => setDraft(rules.filter((x) => x !== r))}>
                  <X size={13} aria-hidden />
                </Button>
              </div>
              {open === r.id && <Editor rule={r} some={some} onChange={(to) => change(r.id, to)} />}
            </li>
          ))}
        </ol>
        <label className="mt-2 inline-flex items-center gap-2 text-ink-2">
          <Plus size={13} aria-hidden />
          <select
            aria-label="Add a rule"
            disabled={draft === null}
            className={`${inputLook} w-auto`}
            value=""
            onChange={(e) => {
              const rule = offered.find(([k]) => k === e.target.value)?.[2]()
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
          </select>
        </label>
      </div>
      {seen && seen.changedInAll > 0 && changed && (
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
      )}
      <div className="flex items-center justify-end gap-3 border-t border-line px-4 py-2.5">
        <span aria-live="polite" className="mr-auto text-ink-2">
          {error
            ? refusal(error)?.message
            : seen &&
              `${number(Object.entries(seen.states).reduce((n, [s, k]) => (s === 'several' || s === 'not-found' ? n + k : n), 0))} open with these rules`}
        </span>
        <Button onClick={onClose}>Cancel</Button>
        <Button
          main
          disabled={!changed || isLoading || !data}
          onClick={async () => {
            if (!edited) return
            const mine = { projectId, rules: [...edited.rules], version: edited.version }
            if (
              await act(
                set(mine),
                (c) => c.sentence,
                projectId,
                (now: MatchRules) => set({ ...mine, version: now.version }),
              )
            )
              onClose()
          }}
        >
          Keep rules
        </Button>
      </div>
    </Dialog>
  )
}

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

const Row = ({ children }: { children: ReactNode }) => <div className="mt-2 flex flex-wrap items-center gap-2 pl-6 text-ink-2">{children}</div>
const unasked = (text: string): string => (text === '?' ? '' : text)
const asked = (text: string): string => text || '?'

function Editor({ rule: r, some, onChange }: { rule: MatchRule; some: readonly Some[]; onChange: (r: MatchRule) => void }) {
  const whom = (scope: Scope | undefined, to: (of: Scope) => void) => <ScopeField scope={scope ?? { kind: 'all' }} some={some} onChange={to} />
  switch (r.kind) {
    case 'reels':
      return <ReelPairs rule={r} onChange={onChange} />
    case 'shift':
      return (
        <Row>
          <input
            aria-label="Frames of the cut"
            type="number"
            className={`${inputLook} w-[110px]`}
            value={r.frames}
            onChange={(e) => onChange({ ...r, frames: Math.round(Number(e.target.value)) || 0 })}
          />
          frames later than the list says, for
          {whom(r.of, (of) => onChange({ ...r, of }))}
        </Row>
      )
    case 'recount':
      return (
        <Row>
          <select
            aria-label="Rate of source timecode"
            className={`${inputLook} w-auto`}
            value={`${r.rate.num}/${r.rate.den}`}
            onChange={(e) => {
              const [num = 25, den = 1] = e.target.value.split('/').map(Number)
              onChange({ ...r, rate: { num, den } })
            }}
          >
            {['24000/1001', '24/1', '25/1', '30000/1001', '30/1', '48/1', '50/1', '60000/1001', '60/1'].map((v) => (
              <option key={v} value={v}>
                {Math.round((Number(v.split('/')[0]) / Number(v.split('/')[1])) * 1000) / 1000} fps
              </option>
            ))}
          </select>
          for
          {whom(r.of, (of) => onChange({ ...r, of }))}
        </Row>
      )
    case 'folder':
      return (
        <Row>
          <input
            aria-label="Folder in the list"
            placeholder="folder as the list writes it"
            className={`${inputLook} w-[260px]`}
            value={unasked(r.from)}
            onChange={(e) => onChange({ ...r, from: asked(e.target.value) })}
          />
          stands in
          <input
            aria-label="Folder of the originals"
            placeholder="Volume/Folder"
            className={`${inputLook} w-[260px]`}
            value={unasked(r.to)}
            onChange={(e) => onChange({ ...r, to: asked(e.target.value) })}
          />
          for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </Row>
      )
    case 'pattern':
      return (
        <div className="mt-2 flex flex-col gap-2 pl-6 text-ink-2">
          <span className="flex items-center gap-2">
            The
            <select
              aria-label="Field that is read"
              className={`${inputLook} w-auto`}
              value={r.field}
              onChange={(e) => onChange({ ...r, field: e.target.value as typeof r.field })}
            >
              {['reel', 'name', 'scene', 'take'].map((f) => (
                <option key={f}>{f}</option>
              ))}
            </select>
            of
            <select
              aria-label="Of what"
              className={`${inputLook} w-auto`}
              value={r.side}
              onChange={(e) => onChange({ ...r, side: e.target.value as typeof r.side })}
            >
              <option value="events">events</option>
              <option value="originals">originals</option>
            </select>
            {r.side === 'events' && <>for {whom(r.events, (events) => onChange({ ...r, events }))}</>}
            is
          </span>
          <Chips label="Text" chips={r.chips} onChange={(chips) => chips.length > 0 && onChange({ ...r, chips })} />
        </div>
      )
    case 'prefer':
      return (
        <Row>
          Take
          <select
            aria-label="Which one"
            className={`${inputLook} w-auto`}
            value={r.what}
            onChange={(e) => onChange({ ...r, what: e.target.value as typeof r.what })}
          >
            <option value="here">the one that is here</option>
            <option value="larger">the one with the larger picture</option>
            <option value="longer">the longer one</option>
            <option value="later">the one recorded later</option>
            <option value="same-rate">the one that runs as the cut does</option>
            <option value="place">the one in a volume or folder</option>
          </select>
          {r.what === 'place' && (
            <input
              aria-label="Volume or folder"
              className={`${inputLook} w-[220px]`}
              value={r.text}
              onChange={(e) => onChange({ ...r, text: e.target.value })}
            />
          )}
          for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </Row>
      )
    case 'only':
      return (
        <Row>
          Only originals whose
          <select aria-label="Property" className={`${inputLook} w-auto`} value={r.of} onChange={(e) => onChange({ ...r, of: e.target.value as typeof r.of })}>
            <option value="place">volume or folder</option>
            <option value="roll">roll</option>
            <option value="reel">reel</option>
            <option value="coding">coding</option>
            <option value="form">kind (movie, numbered pictures, sound)</option>
          </select>
          has
          <input
            aria-label="Text"
            className={`${inputLook} w-[220px]`}
            value={unasked(r.text)}
            onChange={(e) => onChange({ ...r, text: asked(e.target.value) })}
          />
          for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </Row>
      )
    case 'ignore':
      return (
        <Row>
          <select
            aria-label="What is not trusted"
            className={`${inputLook} w-auto`}
            value={r.what}
            onChange={(e) => onChange({ ...r, what: e.target.value as typeof r.what })}
          >
            <option value="name">clip names</option>
            <option value="reel">reels</option>
            <option value="timecode">source timecode</option>
          </select>
          of the list, for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </Row>
      )
    case 'needs-none':
      return (
        <Row>
          Events whose name or reel has
          <input
            aria-label="Text"
            className={`${inputLook} w-[200px]`}
            value={unasked(r.text)}
            onChange={(e) => onChange({ ...r, text: asked(e.target.value) })}
          />
          are
          <select
            aria-label="What they are"
            className={`${inputLook} w-auto`}
            value={r.as}
            onChange={(e) => onChange({ ...r, as: e.target.value as typeof r.as })}
          >
            <option value="title">titles</option>
            <option value="still">stills</option>
            <option value="music">music</option>
            <option value="mix">a finished mix</option>
            <option value="black">black</option>
            <option value="bars">bars</option>
          </select>
        </Row>
      )
  }
}

type Scope = Extract<MatchRule, { kind: 'shift' }>['of']

function ScopeField({ scope, some, onChange }: { scope: Scope; some: readonly Some[]; onChange: (s: Scope) => void }) {
  const kept = scope.kind === 'events' ? scope.keys : null
  const at = kept ? some.findIndex((s) => s.keys.length === kept.length && s.keys.every((k, i) => k === kept[i])) : -1
  return (
    <>
      <select
        aria-label="For which events"
        className={`${inputLook} w-auto`}
        value={kept ? (at < 0 ? 'kept' : String(at)) : scope.kind}
        onChange={(e) => {
          const chosen = some[Number(e.target.value)]
          if (e.target.value === 'reels') onChange({ kind: 'reels', reels: ['?'] })
          else if (e.target.value === 'all') onChange({ kind: 'all' })
          else if (chosen) onChange({ kind: 'events', keys: [...chosen.keys] })
        }}
      >
        <option value="all">all events</option>
        <option value="reels">events on reels</option>
        {some.map((s, i) => (
          <option key={s.words} value={i}>
            {s.words}
          </option>
        ))}
        {kept && at < 0 && <option value="kept">{plural(kept.length, 'chosen event')}</option>}
      </select>
      {scope.kind === 'reels' && (
        <input
          aria-label="Reels, with commas between"
          className={`${inputLook} w-[200px]`}
          value={scope.reels.map(unasked).join(', ')}
          onChange={(e) => onChange({ kind: 'reels', reels: e.target.value.split(/\s*,\s*/).map(asked) })}
        />
      )}
    </>
  )
}

function ReelPairs({ rule: r, onChange }: { rule: Extract<MatchRule, { kind: 'reels' }>; onChange: (r: MatchRule) => void }) {
  const [read] = api.useReadReelTableMutation()
  const act = useAct()
  const file = useRef<HTMLInputElement>(null)
  return (
    <div className="mt-2 flex flex-col gap-1.5 pl-6 text-ink-2">
      {r.pairs.slice(0, 12).map((p, i) => (
        // Pairs stay where they are.
        // biome-ignore lint/suspicious/noArrayIndexKey: the place is what a pair is known by
        <span key={i} className="flex items-center gap-2">
          Reel
          <input
            aria-label={`Reel in the list ${i + 1}`}
            className={`${inputLook} w-[170px]`}
            value={unasked(p.from)}
            onChange={(e) => onChange({ ...r, pairs: r.pairs.with(i, { ...p, from: asked(e.target.value) }) })}
          />
          is
          <input
            aria-label={`Reel on the originals ${i + 1}`}
            className={`${inputLook} w-[170px]`}
            value={unasked(p.to)}
            onChange={(e) => onChange({ ...r, pairs: r.pairs.with(i, { ...p, to: asked(e.target.value) }) })}
          />
          {r.pairs.length > 1 && (
            <Button quiet aria-label={`Take away reel ${i + 1}`} className="px-1" onClick={() => onChange({ ...r, pairs: r.pairs.filter((_, n) => n !== i) })}>
              <X size={12} aria-hidden />
            </Button>
          )}
        </span>
      ))}
      {r.pairs.length > 12 && <span>and {number(r.pairs.length - 12)} more</span>}
      <span className="flex gap-2">
        <Button onClick={() => onChange({ ...r, pairs: [...r.pairs, { from: '?', to: '?' }] })}>
          <Plus size={12} aria-hidden /> Reel
        </Button>
        <Button onClick={() => file.current?.click()}>From a table file ...</Button>
        <input
          ref={file}
          type="file"
          aria-label="Table of reels"
          accept=".csv,.tsv,.txt,.tab"
          className="hidden"
          onChange={async (e) => {
            const f = e.target.files?.[0]
            const done = f && (await act(read({ base64: await base64Of(f) }), (t) => t.message))
            if (done) onChange({ ...r, pairs: done.pairs })
            e.target.value = ''
          }}
        />
      </span>
    </div>
  )
}
