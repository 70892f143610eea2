/** What each kind takes on each volume, what no cut uses, and edit copies that can go. */
import type { CarryAsk, CarryWhat, DeleteAsk, SpaceKind, SpecSpace, WorkingKind } from '@naranja/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { SpaceChart } from '../../charts/index.ts'
import { Button, bytes, Dialog, Empty, Head, Loading, moment, NoticeMark, plural } from '../../ui/index.ts'
import { WhatFailed } from '../../pieces/index.ts'
import { CarryDialog } from './CarryDialog.tsx'

export const kindWords: Record<SpaceKind, string> = {
  originals: 'Originals',
  intermediates: 'Intermediates',
  proxies: 'Proxies',
  pulls: 'Pulls',
  masters: 'Masters',
}

export function SpacePage() {
  const projectId = useProjectId()
  const { data: s } = api.useSpaceQuery(projectId)
  const [ask, setAsk] = useState<(DeleteAsk & { name: string }) | null>(null)
  const [carried, setCarried] = useState<{ how: CarryAsk['how']; things: CarryWhat; name: string } | null>(null)
  const all = (kind: SpaceKind) => s?.volumes.flatMap((v) => v.kinds.filter((k) => k.kind === kind)) ?? []
  const total = s?.volumes.reduce((n, v) => n + v.kinds.reduce((m, k) => m + k.bytes, 0), 0) ?? 0
  if (s && s.volumes.length === 0)
    return (
      <>
        <Head title="Space" />
        <Empty
          guide="/guide/running"
          title="Nothing takes space yet"
          action={
            <Link to={`/p/${projectId}/originals`} className="text-ink underline">
              Add originals first
            </Link>
          }
        >
          What originals, edit copies, pulls and masters take on each volume is shown here, and what of it no cut uses.
        </Empty>
      </>
    )
  return (
    <>
      <Head
        title="Space"
        sub={
          s && (
            <span>
              {bytes(total)} of this project on {plural(s.volumes.length, 'volume')}
            </span>
          )
        }
      >
        {s && (
          <Button
            onClick={() => setCarried({ how: 'hand-over', things: { what: 'project', kinds: ['originals', 'intermediates', 'proxies'] }, name: 'the project' })}
          >
            Collect …
          </Button>
        )}
      </Head>
      <WhatFailed kinds={['carry']} />
      {!s && <Loading what="what takes space" />}
      {s && (
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px]">
          <div className="flex min-h-0 min-w-0 flex-col gap-3 overflow-auto border-r border-line p-3">
            <SpaceChart volumes={s.volumes} />
            <table className="w-full border-collapse">
              <caption className="sr-only">What each kind takes on each volume</caption>
              <thead>
                <tr className="text-left text-xs text-ink-3">
                  <th className="py-1 font-medium">Volume</th>
                  <th className="font-medium">Kind</th>
                  <th className="text-right font-medium">Files</th>
                  <th className="text-right font-medium">Takes</th>
                  <th className="text-right font-medium">Used by a cut</th>
                </tr>
              </thead>
              <tbody>
                {s.volumes.flatMap((v) =>
                  v.kinds.map((k, i) => (
                    <tr key={`${v.volumeId} ${k.kind}`} className="h-8 border-t border-line/60">
                      <td className="text-ink-2">
                        {i === 0 && (
                          <>
                            {v.volume}
                            <span className="ml-2 text-xs text-ink-3">{v.here ? `${bytes(v.free ?? 0)} free` : 'away'}</span>
                          </>
                        )}
                      </td>
                      <td>{kindWords[k.kind]}</td>
                      <td className="text-right">
                        {k.goneCount > 0 && <span className="mr-2 text-xs text-pomegranate">{k.goneCount} gone</span>}
                        <span className="mono">{k.count}</span>
                      </td>
                      <td className="mono text-right">{bytes(k.bytes)}</td>
                      <td className="mono text-right text-ink-2">
                        {s.cuts === 0
                          ? 'no cut yet'
                          : k.kind === 'pulls' || k.kind === 'masters'
                            ? '–'
                            : `${bytes(k.usedBytes)} in ${plural(k.usedCount, 'file')}`}
                      </td>
                    </tr>
                  )),
                )}
              </tbody>
            </table>
          </div>
          <aside aria-label="Edit copies" className="flex min-h-0 flex-col gap-2 overflow-auto p-3">
            <b className="font-[650]">Edit copies</b>
            <p className="m-0 text-ink-2">They can be made again as long as their originals are there. Originals are never deleted here.</p>
            {s.specs.length === 0 && <p className="m-0 text-ink-3">There are none.</p>}
            {s.specs.map((c) => (
              <SpecCard
                key={c.spec}
                c={c}
                cuts={s.cuts}
                onAsk={(unusedOnly) => setAsk({ spec: c.spec, unusedOnly, name: c.name })}
                onCarry={(how) => setCarried({ how, things: { what: 'copies', spec: c.spec, unusedOnly: false }, name: c.name })}
              />
            ))}
            {(['pulls', 'masters'] as const).map((kind) => {
              const list = all(kind)
              if (list.length === 0) return null
              return (
                <div key={kind} className="flex items-center gap-2 rounded-md border border-line p-2.5">
                  <b className="font-[650]">{kindWords[kind]}</b>
                  <span className="mono text-ink-2">{bytes(list.reduce((n, k) => n + k.bytes, 0))}</span>
                  <span className="ml-auto flex gap-1.5">
                    <Button onClick={() => setCarried({ how: 'hand-over', things: { what: kind }, name: kind })}>Hand over …</Button>
                    <Button onClick={() => setCarried({ how: 'move', things: { what: kind }, name: kind })}>Move …</Button>
                  </span>
                </div>
              )
            })}
            <Working />
          </aside>
        </div>
      )}
      {carried && <CarryDialog {...carried} onClose={() => setCarried(null)} />}
      {ask && <Deletion ask={ask} onClose={() => setAsk(null)} />}
    </>
  )
}

function SpecCard({ c, cuts, onAsk, onCarry }: { c: SpecSpace; cuts: number; onAsk: (unusedOnly: boolean) => void; onCarry: (how: CarryAsk['how']) => void }) {
  return (
    <div className="flex flex-col gap-1.5 rounded-md border border-line p-2.5">
      <div className="flex justify-between gap-2">
        <b className="font-[650]">{c.name}</b>
        <span className="mono">{bytes(c.bytes)}</span>
      </div>
      <span className="text-ink-2">
        {plural(c.count, 'copy', 'copies')}
        {cuts > 0 && c.unusedCount > 0 && `, ${c.unusedCount} that no cut uses (${bytes(c.unusedBytes)})`}
      </span>
      <div className="flex flex-wrap gap-1.5">
        <Button onClick={() => onCarry('hand-over')}>Hand over …</Button>
        <Button onClick={() => onCarry('move')}>Move …</Button>
        {cuts > 0 && c.unusedCount > 0 && c.unusedCount < c.count && <Button onClick={() => onAsk(true)}>Delete the unused …</Button>}
        <Button onClick={() => onAsk(false)}>Delete all …</Button>
      </div>
    </div>
  )
}

const workingWords: Record<WorkingKind, string> = {
  pictures: 'Pictures that were looked at',
  trials: 'Pictures of trials',
  segments: 'Pieces of masters',
  logs: 'Logs',
}

/** What Naranja keeps for itself: made again when it is wanted, each kind within its limit. */
function Working() {
  const { data: w } = api.useWorkingQuery(undefined, { refetchOnMountOrArgChange: true })
  const [clear, { isLoading }] = api.useClearWorkingMutation()
  const act = useAct()
  if (!w) return null
  const total = w.kinds.reduce((n, k) => n + k.bytes, 0)
  const { saves } = w
  return (
    <section aria-label="Working files" className="mt-auto flex flex-col gap-1.5 border-t border-line pt-3">
      <div className="flex items-baseline gap-2">
        <b className="font-[650]">Working files</b>
        <span className="mono ml-auto">{bytes(total)}</span>
      </div>
      <p className="m-0 text-ink-2">Made again when they are wanted. Those in use stay.</p>
      <table className="w-full border-collapse">
        <tbody>
          {w.kinds.map((k) => (
            <tr key={k.kind} className="h-7 border-t border-line/60">
              <td>{workingWords[k.kind]}</td>
              <td className="mono text-right">{bytes(k.bytes)}</td>
              <td className="w-[110px] text-right text-xs text-ink-3">of {bytes(k.limit)} at most</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex items-center gap-2">
        <span className="text-xs text-ink-3" title={saves.folder}>
          {saves.last
            ? `What Naranja knows is saved daily, last ${moment(saves.last)} (${plural(saves.count, 'save')}, ${bytes(saves.bytes)})`
            : 'What Naranja knows is saved daily; the first save comes soon'}
        </span>
        <Button className="ml-auto" disabled={isLoading || total === 0} onClick={() => void act(clear(), (c) => c.sentence)}>
          Clear
        </Button>
      </div>
    </section>
  )
}

/** What would be lost, in words, before anything is. */
function Deletion({ ask, onClose }: { ask: DeleteAsk & { name: string }; onClose: () => void }) {
  const projectId = useProjectId()
  const { data: p } = api.useDeletionQuery({ projectId, spec: ask.spec, unusedOnly: ask.unusedOnly })
  const [remove, { isLoading }] = api.useDeleteCopiesMutation()
  const act = useAct()
  return (
    <Dialog open onClose={onClose} title={`Delete ${ask.unusedOnly ? 'unused copies' : 'all copies'} of ${ask.name}`}>
      <div className="flex flex-col gap-2 p-4">
        {p?.lost.map((l) => (
          <p key={l} className="m-0 flex gap-2">
            <span className="mt-0.5">
              <NoticeMark severity="warning" />
            </span>
            {l}
          </p>
        ))}
        {p && p.kept.length > 0 && (
          <p className="m-0 flex gap-2 text-ink-2">
            <span className="mt-0.5">
              <NoticeMark severity="info" />
            </span>
            {plural(p.kept.length, 'copy stays', 'copies stay')}: {p.kept[0]?.name}: {p.kept[0]?.reason}
            {p.kept.length > 1 ? ', and more' : ''}.
          </p>
        )}
        <p className="m-0 text-ink-2">This cannot be undone.</p>
        <div className="mt-1 flex justify-end gap-2">
          <Button onClick={onClose}>Keep them</Button>
          <Button
            main
            disabled={!p || p.copies === 0 || isLoading}
            onClick={async () => {
              await act(remove({ projectId, spec: ask.spec, unusedOnly: ask.unusedOnly }), (c) => c.sentence)
              onClose()
            }}
          >
            {p ? `Delete ${plural(p.copies, 'copy', 'copies')}` : 'Delete'}
          </Button>
        </div>
      </div>
    </Dialog>
  )
}
