/** One rule, changed: what it says, and for which events. */
import type { MatchRule } from '@naranja/contract'
import { Plus, X } from 'lucide-react'
import { type ReactNode, useRef } from 'react'
import { api } from '../../api/index.ts'
import { useAct } from '../../state/index.ts'
import { base64Of, Button, Chips, inputLook, number, plural } from '../../ui/index.ts'

/** Events that a rule can be limited to: in words, and by their keys. */
export interface Some {
  readonly words: string
  readonly keys: readonly string[]
}

const Row = ({ children }: { children: ReactNode }) => <div className="mt-2 flex flex-wrap items-center gap-2 pl-6 text-ink-2">{children}</div>

const unasked = (text: string): string => (text === '?' ? '' : text)

export const asked = (text: string): string => text || '?'

export function Editor({ rule: r, some, onChange }: { rule: MatchRule; some: readonly Some[]; onChange: (r: MatchRule) => void }) {
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
