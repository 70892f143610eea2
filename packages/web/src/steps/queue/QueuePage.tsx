/** The queue: what runs, what waits, what came of it. */
import type { Priority, Queue } from '@naranja/contract'
import { Pause, Play } from 'lucide-react'
import { useEffect, useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Bar, Button, Empty, Head, lasting, Loading, number, Select } from '../../ui/index.ts'
import { BatchTasks } from './BatchTasks.tsx'

export function QueuePage() {
  const id = useProjectId()
  const { data: q } = api.useQueueQuery({ projectId: id })
  const [pause] = api.usePauseMutation()
  const [cancelBatch] = api.useCancelBatchMutation()
  const [retryBatch] = api.useRetryBatchMutation()
  const act = useAct()
  const [open, setOpen] = useState<string | null>(null)
  // What is open stays so when another batch comes before it.
  const first = q?.batches[0]?.id
  useEffect(() => {
    if (first) setOpen((now) => now ?? first)
  }, [first])
  const active = q?.batches.filter((b) => b.active).length ?? 0
  const running = q?.batches.reduce((n, b) => n + b.running, 0) ?? 0
  const left = q?.batches.reduce((n, b) => n + b.tasks - b.finished, 0) ?? 0
  const said = q?.paused ? `held, ${number(left)} to go` : `${number(running)} being made, ${number(left - running)} waiting`
  return (
    <>
      <Head title="Queue" sub={q && <span>{active === 0 ? 'nothing is running' : said}</span>}>
        {q && <Machines machines={q.machines} />}
        {q && (active > 0 || q.paused) && (
          <Button onClick={() => void act(pause({ paused: !q.paused }), q.paused ? 'The queue goes on.' : 'The queue is held, what runs included.')}>
            {q.paused ? <Play size={13} aria-hidden /> : <Pause size={13} aria-hidden />} {q.paused ? 'Go on' : 'Hold the queue'}
          </Button>
        )}
      </Head>
      {!q && <Loading what="the queue" />}
      {q && q.batches.length === 0 && (
        <Empty title="Nothing has been set going yet" guide="/guide/running">
          Clips are taken in, and edit copies, pulls and masters are made, in the background. The work goes on while you do other things, and after a restart.
        </Empty>
      )}
      <div className="min-h-0 flex-1 overflow-auto">
        {q?.batches.map((b) => {
          const shown = open === b.id
          return (
            <section key={b.id} className="border-b border-line" aria-label={b.label}>
              <div className="flex items-center gap-3 bg-panel px-3 py-2">
                <button
                  type="button"
                  aria-expanded={shown}
                  onClick={() => setOpen(shown ? '' : b.id)}
                  className="w-[340px] flex-none overflow-hidden text-left font-semibold text-ellipsis whitespace-nowrap"
                  title={b.label}
                >
                  {shown ? '▾' : '▸'} {b.label}
                </button>
                <Bar share={b.share} label={b.label} className="w-[120px]" />
                <span className="mono w-11 text-right">{Math.floor(b.share * 100)} %</span>
                <span className="whitespace-nowrap text-ink-2">
                  {b.finished} of {b.tasks} ended{b.failed > 0 && <span className="text-pomegranate">, {number(b.failed)} failed</span>}
                  {b.cancelled > 0 && `, ${number(b.cancelled)} cancelled`}
                </span>
                <span className="mono whitespace-nowrap text-ink-2">
                  {b.active ? [b.fps ? `${Math.round(b.fps)} fps` : '', b.left ? `${lasting(b.left)} left` : ''].filter(Boolean).join(' · ') : ''}
                </span>
                {b.waiting > 0 && <Urgency batchId={b.id} label={b.label} priority={b.priority} />}
                {!b.active && b.tasks > 1 && b.failed + b.cancelled > 0 && (
                  <Button className="ml-auto" onClick={() => void act(retryBatch(b.id), 'What failed or was cancelled is tried again.')}>
                    Try {number(b.failed + b.cancelled)} again
                  </Button>
                )}
                {b.active && (
                  <Button
                    className={b.waiting > 0 ? '' : 'ml-auto'}
                    onClick={() => void act(cancelBatch(b.id), 'The rest of the batch is cancelled; what is finished stays.')}
                  >
                    Cancel batch
                  </Button>
                )}
              </div>
              {shown && <BatchTasks tasks={q.tasks.filter((t) => t.batchId === b.id)} />}
            </section>
          )
        })}
      </div>
    </>
  )
}

/** Whether what waits of a batch goes before everything else, in its turn, or last. */
function Urgency({ batchId, label, priority }: { batchId: string; label: string; priority: Priority }) {
  const [set] = api.useSetPriorityMutation()
  const act = useAct()
  return (
    <Select
      label={`When ${label} is made`}
      className="ml-auto py-0.5"
      value={priority}
      onChange={(v) => void act(set({ batchId: batchId, priority: v as Priority }))}
    >
      <option value="first">before all else</option>
      <option value="normal">in its turn</option>
      <option value="later">when nothing else waits</option>
    </Select>
  )
}

/** How many tasks each machine does at once. */
function Machines({ machines }: { machines: Queue['machines'] }) {
  const [set] = api.useSetLimitMutation()
  const act = useAct()
  return machines.map((m) => (
    <label key={m.name} className="flex items-center gap-1.5 text-ink-2">
      {m.name}
      <Select
        label={`Tasks at once on ${m.name}`}
        className="py-0.5"
        value={m.workers ? Math.round(m.limit / m.workers) : 1}
        onChange={(v) => void act(set({ name: m.name, limit: Number(v) }), `${m.name} does ${v} at once from now on.`)}
      >
        {[1, 2, 3, 4, 6, 8, 12, 16].map((n) => (
          <option key={n} value={n}>
            {n} at once
          </option>
        ))}
      </Select>
    </label>
  ))
}
