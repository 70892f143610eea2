/** Originals that are on their way into an empty list: what is taken in or backed up, and how far it is. */
import type { TaskRow } from '@naranja/contract'
import { Bar } from '../../ui/index.ts'

export function Coming({ task }: { task: TaskRow }) {
  return (
    <div role="status" className="m-auto flex flex-col items-center gap-3 p-8 text-center">
      <h2 className="m-0 text-[15px] font-[650]">{task.kind === 'backup' ? 'Backing up' : 'Taking in'}</h2>
      <p className="m-0 max-w-[460px] wrap-anywhere text-ink-2">{task.label}</p>
      <Bar share={task.total ? task.done / task.total : 0} label={task.label} className="w-[260px]" />
      <p className="m-0 text-ink-3">{task.state === 'running' ? 'The clips stand here as they are found.' : 'It waits for its turn in the queue.'}</p>
    </div>
  )
}
