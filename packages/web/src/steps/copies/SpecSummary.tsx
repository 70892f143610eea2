/** What one of the chosen specs does. */
import type { SpecRow } from '@naranja/contract'
import { codingOf, wrapperOf } from '@naranja/core/specs'
import { Link } from 'react-router'
import { useProjectId } from '../../state/index.ts'
import { Figure, Select } from '../../ui/index.ts'
import { frameWords, keeps, soundWords } from './specWords.ts'
import { anglesText, useLastTrial } from './useLastTrial.ts'

/** `others`: the specs that can be chosen in its place, null where several are chosen together. */
export function SpecSummary({ spec: s, others, onSpec }: { spec: SpecRow; others: readonly SpecRow[] | null; onSpec: (code: string) => void }) {
  const projectId = useProjectId()
  const tried = useLastTrial().result?.specs.find((t) => t.spec === s.code && t.version === s.version)
  const c = codingOf(s.coding)
  return (
    <div>
      <div className="flex items-baseline justify-between gap-2">
        {others ? (
          <Select
            label="Spec"
            className="min-w-0 flex-1 font-[650]"
            value={s.code}
            onChange={onSpec}
            options={[s, ...others].map((x) => [x.code, x.name] as const)}
          />
        ) : (
          <b className="font-[650]">{s.name}</b>
        )}
        <Link to={`/p/${projectId}/specs/${s.code}`} className="text-xs whitespace-nowrap text-ink-2 underline">
          Change this spec
        </Link>
      </div>
      <p className="my-1.5 text-ink-2">
        {s.purpose} {keeps(s)}
      </p>
      {others && (
        <div>
          <Figure name="Frame">{frameWords(s)}</Figure>
          {s.burnIns.length > 0 && <Figure name="Burn-ins">{s.burnIns.map((b) => b.what).join(', ')}</Figure>}
          <Figure name="Picture">
            {c.depth} bit {c.chroma}, {wrapperOf(s.wrapper).name}
          </Figure>
          {s.sound.channels !== 'all' && <Figure name="Sound">{soundWords(s)}</Figure>}
          <Figure name="Plays here">
            {tried?.play ? (
              <Link to={`/p/${projectId}/copies/trial`} className="underline">
                {anglesText(tried.play.angles)}
              </Link>
            ) : (
              <Link to={`/p/${projectId}/copies/trial`} className="text-ink-2 underline">
                try it
              </Link>
            )}
          </Figure>
        </div>
      )}
    </div>
  )
}
