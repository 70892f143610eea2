/** The roll board: every roll by its day, how safe it is and how far; beside it the backups, and what happens when a card comes. */
import type { ArrivalRule, BackupRow, RollRow } from '@naranja/contract'
import { ShieldAlert, ShieldCheck } from 'lucide-react'
import { useEffect, useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, bytes, lasting, moment, NoticeMark, number, plural } from '../../ui/index.ts'
import { IntakeChoice, KeptIntakes } from './IntakeChoice.tsx'
import { useIntake } from './useIntake.ts'

/** How safe a roll is, in words: by its clip with the fewest verified backups. */
export function safety(r: Pick<RollRow, 'clips' | 'backups'>): { level: 0 | 1 | 2; text: string } {
  const [none, one] = r.backups
  if (none === r.clips) return { level: 0, text: 'no backup' }
  if (none > 0) return { level: 0, text: `${number(none)} of ${number(r.clips)} without backup` }
  return one > 0 ? { level: 1, text: one === r.clips ? 'safe once' : `${number(one)} of ${number(r.clips)} safe once` } : { level: 2, text: 'all safe twice' }
}

const tones = ['text-lemon', 'text-ink-2', 'text-leaf'] as const

function Meter({ label, done, of, empty }: { label: string; done: number; of: number; empty: string }) {
  return (
    <span className="grid grid-cols-[86px_1fr_64px] items-center gap-2 text-xs">
      <span className="text-ink-2">{label}</span>
      <span className="h-[5px] overflow-hidden rounded-full bg-line">
        <span className="block h-full bg-ink-3" style={{ width: of ? `${(100 * done) / of}%` : 0 }} />
      </span>
      <span className="text-right tabular-nums text-ink-3">{of ? `${number(done)} of ${number(of)}` : empty}</span>
    </span>
  )
}

function Tile({ roll, onOpen }: { roll: RollRow; onOpen: () => void }) {
  const safe = safety(roll)
  const Mark = safe.level === 0 ? ShieldAlert : ShieldCheck
  return (
    <button type="button" onClick={onOpen} className="flex flex-col gap-1.5 rounded-lg border border-line bg-panel p-3 text-left hover:border-ink-3">
      <span className="flex items-baseline gap-2">
        <b className="min-w-0 overflow-hidden font-[650] text-ellipsis whitespace-nowrap">{roll.roll}</b>
        <span className="ml-auto text-xs whitespace-nowrap text-ink-3">
          {plural(roll.clips, 'clip')}, {lasting(roll.seconds)}
        </span>
      </span>
      <span className={`flex items-center gap-1.5 ${tones[safe.level]}`}>
        <Mark size={14} aria-hidden /> {safe.text}
        {roll.away > 0 && <span className="ml-auto text-xs text-ink-3">{roll.away === roll.clips ? 'away' : `${number(roll.away)} away`}</span>}
      </span>
      <Meter label="Edit copies" done={roll.copied} of={roll.copyable} empty="sound" />
      <Meter label="Used in a cut" done={roll.used} of={roll.clips} empty="" />
      <Meter label="Checked" done={roll.checked} of={roll.used} empty="none used" />
    </button>
  )
}

export function RollBoard({ onRoll }: { onRoll: (roll: string) => void }) {
  const projectId = useProjectId()
  const { data: rolls } = api.useRollsQuery(projectId)
  const days = [...new Set(rolls?.map((r) => r.day) ?? [])]
  const twice = rolls?.filter((r) => safety(r).level === 2).length ?? 0
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_360px]">
      <div className="overflow-auto border-r border-line p-4">
        <p className="mt-0 mb-3 text-ink-2">
          {rolls && (twice === rolls.length ? 'Every roll is safe twice.' : `${number(twice)} of ${plural(rolls.length, 'roll')} are safe twice.`)} A backup
          counts when every file was read back and compared; a card never counts.
        </p>
        {days.map((day) => (
          <section key={day} aria-label={day} className="mb-5">
            <h2 className="m-0 mb-2 text-[15px] font-[650]">{day}</h2>
            <div className="grid grid-cols-[repeat(auto-fill,minmax(236px,1fr))] gap-2.5">
              {rolls
                ?.filter((r) => r.day === day)
                .map((r) => (
                  <Tile key={r.roll} roll={r} onOpen={() => onRoll(r.roll)} />
                ))}
            </div>
          </section>
        ))}
      </div>
      <aside className="flex min-h-0 flex-col gap-5 overflow-auto p-4">
        <Backups />
        <Arrivals />
      </aside>
    </div>
  )
}

const stateText: Record<BackupRow['state'], string> = { 'being-made': 'being made', complete: 'complete', incomplete: 'not complete' }

function Backups() {
  const projectId = useProjectId()
  const { data: backups } = api.useBackupsQuery(projectId)
  const [verify] = api.useVerifyBackupsMutation()
  const act = useAct()
  const ask = (ids: string[]) => void act(verify({ projectId, backupIds: ids }), (s) => s.message)
  return (
    <section aria-label="Backups">
      <div className="mb-2 flex items-center justify-between">
        <h2 className="m-0 text-[15px] font-[650]">Backups</h2>
        {backups && backups.length > 1 && <Button onClick={() => ask([])}>Verify all</Button>}
      </div>
      {backups?.length === 0 && (
        <p className="m-0 text-ink-2">
          None yet. Add originals with "Back up first", and each file is copied, read back and compared; a history (ASC MHL) is written beside them.
        </p>
      )}
      <ul className="m-0 list-none p-0">
        {backups?.map((b) => {
          const problems = [...(b.checked?.problems ?? []), ...b.problems]
          return (
            <li key={b.id} className="border-b border-line/70 py-2">
              <div className="flex items-center gap-2">
                <b className="min-w-0 overflow-hidden font-[650] text-ellipsis whitespace-nowrap">{b.card}</b>
                <span
                  className={`text-xs whitespace-nowrap ${b.state === 'complete' ? 'text-leaf' : b.state === 'being-made' ? 'text-tide' : 'text-pomegranate'}`}
                >
                  {stateText[b.state]}
                </span>
                {b.state !== 'being-made' && !b.away && (
                  <Button quiet className="ml-auto" onClick={() => ask([b.id])} aria-label={`Verify ${b.card} in ${b.folder}`}>
                    Verify
                  </Button>
                )}
                {b.away && <span className="ml-auto text-xs text-ink-3">away</span>}
              </div>
              <div className="mono text-xs break-words text-ink-3">{b.folder}</div>
              <div className="text-xs text-ink-2">
                {b.files > 0 && `${number(b.verified)} of ${plural(b.files, 'file')} verified, ${bytes(b.bytes)}`}
                {b.files > 0 && b.readBack === 'cache' && ', read back through the cache'}
                {b.checked && `; compared again on ${moment(b.checked.when)}`}
              </div>
              {problems.slice(0, 3).map((p) => (
                <p key={p} className="m-0 mt-1 flex gap-1.5 text-xs break-words text-ink-2">
                  <NoticeMark severity="error" /> <span className="min-w-0">{p}</span>
                </p>
              ))}
              {problems.length > 3 && <p className="m-0 text-xs text-ink-3">and {number(problems.length - 3)} more</p>}
            </li>
          )
        })}
      </ul>
    </section>
  )
}

/** What happens by itself when a card arrives. */
function Arrivals() {
  const { data: kept } = api.useArrivalsQuery(useProjectId())
  return kept ? <ArrivalChoice key={JSON.stringify(kept)} kept={kept} /> : null
}

function ArrivalChoice({ kept }: { kept: ArrivalRule }) {
  const projectId = useProjectId()
  const [save] = api.useSetArrivalsMutation()
  const act = useAct()
  const [on, setOn] = useState(kept.on)
  const choices = useIntake()
  const { plan, fill } = choices
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, with what is kept
  useEffect(() => fill(kept), [])
  const changed = on !== kept.on || (plan !== null && JSON.stringify([plan.backupTo, plan.copies]) !== JSON.stringify([kept.backupTo, kept.copies]))
  return (
    <section aria-label="When a card arrives">
      <h2 className="m-0 mb-2 text-[15px] font-[650]">When a card arrives</h2>
      <label className="mb-2 flex items-center gap-2">
        <input type="checkbox" className="accent-zest" checked={on} onChange={(e) => setOn(e.target.checked)} /> Take it in by itself
      </label>
      {on && (
        <div className="flex flex-col gap-3">
          <KeptIntakes choices={choices} />
          <IntakeChoice narrow choices={choices} />
        </div>
      )}
      {changed && (
        <Button
          main
          className="mt-3"
          disabled={!plan}
          onClick={() =>
            plan &&
            void act(
              save({ projectId: projectId, on, ...plan, version: kept.version }),
              on ? 'Cards are taken in as they come.' : 'Cards wait for you.',
              undefined,
              (now: ArrivalRule) => save({ projectId: projectId, on, ...plan, version: now.version }),
            )
          }
        >
          Save
        </Button>
      )}
    </section>
  )
}
