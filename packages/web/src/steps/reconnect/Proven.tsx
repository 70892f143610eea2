/** Reels that timecode alone proves to be rolls: all of them repaired at once, but for those that are left out. */
import type { MatchRule } from '@naranja/contract'
import { useState } from 'react'
import { Button, number, plural } from '../../ui/index.ts'
import type { Proof } from './landing.ts'

export function Proven({ proofs, waits, onRepair }: { proofs: readonly Proof[]; waits: boolean; onRepair: (rule: MatchRule) => void }) {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set())
  const chosen = proofs.filter((p) => !left.has(p.group))
  const landing = chosen.reduce((n, p) => n + p.events, 0)
  const rule = (): MatchRule => {
    const pairs = chosen.map((p) => ({ from: p.from, to: p.to }))
    return { id: `reels ${pairs.map((p) => p.from).join(' ')}`.slice(0, 60), on: true, kind: 'reels', pairs }
  }
  return (
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
      <Button main disabled={chosen.length === 0 || waits} onClick={() => onRepair(rule())}>
        Repair {plural(chosen.length, 'reel')}
      </Button>
    </section>
  )
}
