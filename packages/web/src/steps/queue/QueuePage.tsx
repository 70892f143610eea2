/** The queue: what runs, what waits, what came of it. */
import type { TaskRow, TaskState } from '@naranja/contract'
import { ClipboardCopy, Pause, Play } from 'lucide-react'
import { useState } from 'react'
import { useCancelBatchMutation, useCancelTaskMutation, usePauseMutation, useQueueQuery, useRetryBatchMutation, useRetryTaskMutation } from '../../api/index.ts'
import { useAct, useProjectId } from '../../app/hooks.ts'
import { tell, useAppDispatch } from '../../app/store.ts'
import { bytes, lasting, number } from '../../ui/format.ts'
import { Bar, Button, Empty, Head } from '../../ui/parts.tsx'
import { AccountDialog } from './AccountDialog.tsx'

const words: Record<TaskState, string> = { waiting: 'waiting', held: 'held', running: 'being made', done: 'done', failed: 'failed', cancelled: 'cancelled' }

export function QueuePage() {
  const id = useProjectId()
  const { data: q } = useQueueQuery(id)
  const [pause] = usePauseMutation()
  const [cancelBatch] = useCancelBatchMutation()
  const [retryBatch] = useRetryBatchMutation()
  const act = useAct()
  const [open, setOpen] = useState<string | null>(null)
  const active = q?.batches.filter((b) => b.active).length ?? 0
  const running = q?.batches.reduce((n, b) => n + b.running, 0) ?? 0
  const left = q?.batches.reduce((n, b) => n + b.tasks - b.finished, 0) ?? 0
  const said = q?.paused ? `held, ${number(left)} to go` : `${number(running)} being made, ${number(left - running)} waiting`
  return (
    <>
      <Head title="Queue" sub={q && <span>{active === 0 ? 'nothing is running' : said}</span>}>
        {q && (active > 0 || q.paused) && (
          <Button onClick={() => void act(pause(!q.paused), q.paused ? 'The queue goes on.' : 'The queue is held, what runs included.')}>
            {q.paused ? <Play size={13} aria-hidden /> : <Pause size={13} aria-hidden />} {q.paused ? 'Go on' : 'Hold the queue'}
          </Button>
        )}
      </Head>
      {q && q.batches.length === 0 && (
        <Empty title="Nothing has been set going yet">
          Taking in, edit copies, pulls and masters are made here in the background. They go on while you work, and after a restart.
        </Empty>
      )}
      <div className="min-h-0 flex-1 overflow-auto">
        {q?.batches.map((b, i) => {
          const shown = open === b.id || (open === null && i === 0)
          return (
            <section key={b.id} className="border-b border-line" aria-label={b.label}>
              <div className="flex items-center gap-3 bg-panel px-3 py-2">
                <button type="button" aria-expanded={shown} onClick={() => setOpen(shown ? '' : b.id)} className="min-w-[300px] text-left font-semibold">
                  {shown ? '▾' : '▸'} {b.label}
                </button>
                <Bar share={b.share} label={b.label} className="w-[220px]" />
                <span className="mono w-11 text-right">{Math.floor(b.share * 100)} %</span>
                <span className="text-ink-2">
                  {b.finished} of {b.tasks} ended{b.failed > 0 && <span className="text-pomegranate">, {number(b.failed)} failed</span>}
                  {b.cancelled > 0 && `, ${number(b.cancelled)} cancelled`}
                </span>
                <span className="mono text-ink-2">
                  {b.active ? [b.fps ? `${Math.round(b.fps)} fps` : '', b.left ? `${lasting(b.left)} left` : ''].filter(Boolean).join(' · ') : ''}
                </span>
                {!b.active && b.tasks > 1 && b.failed + b.cancelled > 0 && (
                  <Button className="ml-auto" onClick={() => void act(retryBatch(b.id), 'What failed or was cancelled is tried again.')}>
                    Try {number(b.failed + b.cancelled)} again
                  </Button>
                )}
                {b.active && (
                  <Button className="ml-auto" onClick={() => void act(cancelBatch(b.id), 'The rest of the batch is cancelled; what is finished stays.')}>
                    Cancel batch
                  </Button>
                )}
              </div>
              {shown && (
                <table className="w-full border-collapse">
                  <thead>
                    <tr className="text-left text-xs text-ink-3">
                      <th className="px-3 py-1 font-medium">Task</th>
                      <th className="w-[90px] font-medium">State</th>
                      <th className="w-[190px] font-medium">Progress</th>
                      <th className="w-[190px] font-medium">Speed</th>
                      <th className="font-medium">What came of it</th>
                      <th className="w-[110px]" />
                    </tr>
                  </thead>
                  <tbody>
                    {q.tasks
                      .filter((t) => t.batchId === b.id)
                      .map((t) => (
                        <Row key={t.id} t={t} />
                      ))}
                  </tbody>
                </table>
              )}
            </section>
          )
        })}
      </div>
    </>
  )
}

function Row({ t }: { t: TaskRow }) {
  const [cancel] = useCancelTaskMutation()
  const [retry] = useRetryTaskMutation()
  const act = useAct()
  const dispatch = useAppDispatch()
  const [account, setAccount] = useState(false)
  const live = t.state === 'running' || t.state === 'held'
  const colour = { failed: 'text-pomegranate', done: 'text-leaf', running: 'text-tide', held: 'text-ink-2', waiting: 'text-ink-3', cancelled: 'text-ink-3' }[
    t.state
  ]
  return (
    <tr className="h-9 border-t border-line/60 align-middle">
      <td className="mono max-w-[280px] overflow-hidden px-3 py-1.5 text-ellipsis whitespace-nowrap">{t.label}</td>
      <td className={`py-1.5 ${colour}`}>{words[t.state]}</td>
      <td className="py-1.5">
        {live && (
          <span className="flex items-center gap-2">
            <Bar share={t.total ? t.done / t.total : 0} label={t.label} className="w-[80px]" />
            <span className="mono whitespace-nowrap text-ink-2">
              {t.unit === 'bytes' ? `${bytes(t.done)} of ${bytes(t.total)}` : `${number(t.done)}/${number(t.total)}`}
            </span>
          </span>
        )}
        {!live && t.state === 'done' && t.unit === 'frames' && <span className="mono text-ink-3">{number(t.total)} frames</span>}
      </td>
      <td className="mono py-1.5 whitespace-nowrap text-ink-2">
        {live
          ? [t.fps ? `${Math.round(t.fps)} fps` : '', t.speed ? `${t.speed.toFixed(1)}×` : '', t.left !== null ? `${lasting(t.left)} left` : '']
              .filter(Boolean)
              .join(' · ')
          : ''}
      </td>
      <td className="py-1.5 pr-3 break-words">
        {t.error ? <span className="text-pomegranate">{t.error}</span> : <span className="text-ink-2">{t.message}</span>}
        {t.command && (
          <Button
            quiet
            className="ml-1 inline-flex px-1 py-0 align-middle"
            title="Copy the ffmpeg command"
            aria-label="Copy the ffmpeg command"
            onClick={() => void navigator.clipboard.writeText(t.command).then(() => dispatch(tell({ text: 'The command is in the clipboard.' })))}
          >
            <ClipboardCopy size={12} />
          </Button>
        )}
      </td>
      <td className="py-0.5 pr-3 text-right">
        {(t.state === 'waiting' || live) && <Button onClick={() => void act(cancel(t.id))}>Cancel</Button>}
        {t.kind === 'take-in' && t.state === 'done' && <Button onClick={() => setAccount(true)}>What it held</Button>}
        {account && <AccountDialog taskId={t.id} onClose={() => setAccount(false)} />}
        {(t.state === 'failed' || t.state === 'cancelled') && <Button onClick={() => void act(retry(t.id), 'It is tried again.')}>Try again</Button>}
      </td>
    </tr>
  )
}
