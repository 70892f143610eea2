/** A master of which nothing is proven yet: it is being rendered, waits for its check, or was not finished. */
import type { MasterRow } from '@naranja/contract'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Bar, Button, lasting, number } from '../../ui/index.ts'

export function Unproven({ master }: { master: MasterRow }) {
  const { data: q } = api.useQueueQuery({ projectId: useProjectId() })
  const [check, { isLoading }] = api.useCheckMasterMutation()
  const act = useAct()
  const name = master.path.slice(master.path.lastIndexOf('/') + 1)
  const task = q?.tasks.find((t) => t.kind === 'master' && t.label === name)
  const going = master.state === 'waiting' || master.state === 'being-made'
  return (
    <div className="m-auto flex w-[460px] flex-col gap-3 text-center">
      <h2 className="m-0 text-[15px] font-[650]">
        {going ? `Rendering ${name}` : master.state === 'unchecked' ? `${name} is rendered, and not checked` : `${name} was not finished`}
      </h2>
      {going && task && (
        <>
          <Bar share={task.total ? task.done / task.total : 0} label={name} className="w-full" />
          <p className="mono m-0 text-ink-2">
            {number(task.done)} of {number(task.total)} frames{task.left !== null && ` · ${lasting(task.left)} left`}
          </p>
          <p className="m-0 text-ink-3">It goes on in the background, and after a restart. When it is finished every event is compared with its source.</p>
        </>
      )}
      {master.state === 'unchecked' && (
        <Button main className="mx-auto" disabled={isLoading} onClick={() => void act(check(master.id), (s) => s.message)}>
          Check {name}
        </Button>
      )}
      {!going && <p className="m-0 text-pomegranate">{task?.error || 'It was cancelled. Finished parts are kept. Start it again in the queue.'}</p>}
    </div>
  )
}
