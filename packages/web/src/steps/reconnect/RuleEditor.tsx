/** One rule, changed: what it says, and for which events. */
import type { MatchRule } from '@naranja/contract'
import { Plus, X } from 'lucide-react'
import { type ReactNode, useRef } from 'react'
import { api } from '../../api/index.ts'
import { useAct } from '../../state/index.ts'
import { base64Of, Button, Chips, inputLook, number, plural, Select } from '../../ui/index.ts'

/** Events that a rule can be limited to: in words, and by their keys. */
export interface Some {
  readonly words: string
  readonly keys: readonly string[]
}

const RuleLine = ({ children }: { children: ReactNode }) => <div className="mt-2 flex flex-wrap items-center gap-2 pl-6 text-ink-2">{children}</div>

/** A rule is complete as soon as it stands there: what nobody has written yet is `?`. */
const unasked = (text: string): string => (text === '?' ? '' : text)
export const asked = (text: string): string => text || '?'

/** A text of a rule; `width` in pixels. */
function Text({
  label,
  width,
  value,
  onChange,
  placeholder,
}: {
  label: string
  width: number
  value: string
  onChange: (v: string) => void
  placeholder?: string
}) {
  return (
    <input
      aria-label={label}
      placeholder={placeholder}
      className={inputLook}
      style={{ width }}
      value={unasked(value)}
      onChange={(e) => onChange(asked(e.target.value))}
    />
  )
}

const rates = ['24000/1001', '24/1', '25/1', '30000/1001', '30/1', '48/1', '50/1', '60000/1001', '60/1'].map((v) => {
  const [num = 25, den = 1] = v.split('/').map(Number)
  return { num, den, option: [v, `${Math.round((num / den) * 1000) / 1000} fps`] as const }
})

/** What a rule says, a sentence with fields in it; each kind of rule has its own. */
export function Editor({ rule: r, some, onChange }: { rule: MatchRule; some: readonly Some[]; onChange: (r: MatchRule) => void }) {
  const whom = (scope: Scope | undefined, to: (of: Scope) => void) => <ScopeField scope={scope ?? { kind: 'all' }} some={some} onChange={to} />
  switch (r.kind) {
    case 'reels':
      return <ReelPairs rule={r} onChange={onChange} />
    case 'shift':
      return (
        <RuleLine>
          <input
            aria-label="Frames of the cut"
            type="number"
            className={`${inputLook} w-[110px]`}
            value={r.frames}
            onChange={(e) => onChange({ ...r, frames: Math.round(Number(e.target.value)) || 0 })}
          />
          frames later than the list says, for
          {whom(r.of, (of) => onChange({ ...r, of }))}
        </RuleLine>
      )
    case 'recount':
      return (
        <RuleLine>
          <Select
            label="Rate of source timecode"
            value={`${r.rate.num}/${r.rate.den}`}
            options={rates.map((x) => x.option)}
            onChange={(v) => {
              const { num, den } = rates.find((x) => x.option[0] === v) ?? r.rate
              onChange({ ...r, rate: { num, den } })
            }}
          />
          for
          {whom(r.of, (of) => onChange({ ...r, of }))}
        </RuleLine>
      )
    case 'folder':
      return (
        <RuleLine>
          <Text
            label="Folder in the list"
            placeholder="folder as the list writes it"
            width={260}
            value={r.from}
            onChange={(from) => onChange({ ...r, from })}
          />
          stands in
          <Text label="Folder of the originals" placeholder="Volume/Folder" width={260} value={r.to} onChange={(to) => onChange({ ...r, to })} />
          for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </RuleLine>
      )
    case 'pattern':
      return (
        <div className="mt-2 flex flex-col gap-2 pl-6 text-ink-2">
          <span className="flex items-center gap-2">
            The
            <Select label="Field that is read" value={r.field} options={readFields} onChange={(field) => onChange({ ...r, field })} />
            of
            <Select label="Of what" value={r.side} options={sides} onChange={(side) => onChange({ ...r, side })} />
            {r.side === 'events' && <>for {whom(r.events, (events) => onChange({ ...r, events }))}</>}
            is
          </span>
          <Chips label="Text" chips={r.chips} onChange={(chips) => chips.length > 0 && onChange({ ...r, chips })} />
        </div>
      )
    case 'prefer':
      return (
        <RuleLine>
          Take
          <Select label="Which one" value={r.what} options={preferred} onChange={(what) => onChange({ ...r, what })} />
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
        </RuleLine>
      )
    case 'only':
      return (
        <RuleLine>
          Only originals whose
          <Select label="Property" value={r.of} options={properties} onChange={(of) => onChange({ ...r, of })} />
          has
          <Text label="Text" width={220} value={r.text} onChange={(text) => onChange({ ...r, text })} />
          for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </RuleLine>
      )
    case 'ignore':
      return (
        <RuleLine>
          <Select label="What is not trusted" value={r.what} options={untrusted} onChange={(what) => onChange({ ...r, what })} />
          of the list, for
          {whom(r.events, (events) => onChange({ ...r, events }))}
        </RuleLine>
      )
    case 'needs-none':
      return (
        <RuleLine>
          Events whose name or reel has
          <Text label="Text" width={200} value={r.text} onChange={(text) => onChange({ ...r, text })} />
          are
          <Select label="What they are" value={r.as} options={needless} onChange={(as) => onChange({ ...r, as })} />
        </RuleLine>
      )
  }
}

type Options<K extends MatchRule['kind'], F extends keyof Extract<MatchRule, { kind: K }>> = readonly (readonly [
  Extract<MatchRule, { kind: K }>[F] & string,
  string,
])[]
const readFields: Options<'pattern', 'field'> = [
  ['reel', 'reel'],
  ['name', 'name'],
  ['scene', 'scene'],
  ['take', 'take'],
]
const sides: Options<'pattern', 'side'> = [
  ['events', 'events'],
  ['originals', 'originals'],
]
const preferred: Options<'prefer', 'what'> = [
  ['here', 'the one that is here'],
  ['larger', 'the one with the larger picture'],
  ['longer', 'the longer one'],
  ['later', 'the one recorded later'],
  ['same-rate', 'the one that runs as the cut does'],
  ['place', 'the one in a volume or folder'],
]
const properties: Options<'only', 'of'> = [
  ['place', 'volume or folder'],
  ['roll', 'roll'],
  ['reel', 'reel'],
  ['coding', 'coding'],
  ['form', 'kind (movie, numbered pictures, sound)'],
]
const untrusted: Options<'ignore', 'what'> = [
  ['name', 'clip names'],
  ['reel', 'reels'],
  ['timecode', 'source timecode'],
]
const needless: Options<'needs-none', 'as'> = [
  ['title', 'titles'],
  ['still', 'stills'],
  ['music', 'music'],
  ['mix', 'a finished mix'],
  ['black', 'black'],
  ['bars', 'bars'],
]

type Scope = Extract<MatchRule, { kind: 'shift' }>['of']

function ScopeField({ scope, some, onChange }: { scope: Scope; some: readonly Some[]; onChange: (s: Scope) => void }) {
  const kept = scope.kind === 'events' ? scope.keys : null
  const at = kept ? some.findIndex((s) => s.keys.length === kept.length && s.keys.every((k, i) => k === kept[i])) : -1
  return (
    <>
      <Select
        label="For which events"
        value={kept ? (at < 0 ? 'kept' : String(at)) : scope.kind}
        onChange={(v) => {
          const chosen = some[Number(v)]
          if (v === 'reels') onChange({ kind: 'reels', reels: ['?'] })
          else if (v === 'all') onChange({ kind: 'all' })
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
      </Select>
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
          <Text
            label={`Reel in the list ${i + 1}`}
            width={170}
            value={p.from}
            onChange={(from) => onChange({ ...r, pairs: r.pairs.with(i, { ...p, from }) })}
          />
          is
          <Text label={`Reel on the originals ${i + 1}`} width={170} value={p.to} onChange={(to) => onChange({ ...r, pairs: r.pairs.with(i, { ...p, to }) })} />
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
