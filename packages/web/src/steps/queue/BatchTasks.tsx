/** The tasks of a batch: how far each is, what came of it, and in which order they are made. */
import { closestCenter, DndContext, type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core'
import { SortableContext, sortableKeyboardCoordinates, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import type { TaskRow, TaskState } from '@naranja/contract'
import { ClipboardCopy, GripVertical, Pause, Play } from 'lucide-react'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { tell, useAct, useAppDispatch, useProjectId } from '../../state/index.ts'
import { Bar, Button, bytes, lasting, number, Select } from '../../ui/index.ts'
import { AccountDialog } from './AccountDialog.tsx'

const words: Record<TaskState, string> = { waiting: 'waiting', held: 'held', running: 'being made', done: 'done', failed: 'failed', cancelled: 'cancelled' }
/** So many of those that wait can be dragged; any other can be made next. */
const draggable = 60

export function BatchTasks({ tasks }: { tasks: readonly TaskRow[] }) {
  const [move] = api.useMoveTaskMutation()
  const act = useAct()
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const waiting = tasks.filter((t) => t.state === 'waiting')
  const ids = waiting.slice(0, draggable).map((t) => t.id)
  const moved = ({ active, over }: DragEndEvent) => {
    const [from, to] = [ids.indexOf(String(active.id)), ids.indexOf(String(over?.id))]
    if (!over || from < 0 || to < 0 || from === to) return
    // Put below another it stands before the one after that.
    const before = to > from ? (waiting[to + 1]?.id ?? null) : (ids[to] ?? null)
    void act(move({ taskId: String(active.id), before }))
  }
  return (
    <DndContext sensors={sensors} collisionDetection={closestCenter} onDragEnd={moved}>
      <SortableContext items={ids} strategy={verticalListSortingStrategy}>
        <table className="w-full border-collapse">
          <thead>
            <tr className="text-left text-xs text-ink-3">
              <th className="px-3 py-1 pl-7 font-medium">Task</th>
              <th className="w-[104px] font-medium">State</th>
              <th className="w-[180px] font-medium">Progress</th>
              <th className="w-[170px] font-medium">Speed</th>
              <th className="font-medium">Result</th>
              <th className="w-[196px]" />
            </tr>
          </thead>
          <tbody>
            {tasks.map((t) => (
              <TaskLine key={t.id} t={t} next={waiting[0]?.id ?? null} drag={ids.length > 1 && ids.includes(t.id)} />
            ))}
          </tbody>
        </table>
      </SortableContext>
    </DndContext>
  )
}

function TaskLine({ t, next, drag }: { t: TaskRow; next: string | null; drag: boolean }) {
  const [cancel] = api.useCancelTaskMutation()
  const [retry] = api.useRetryTaskMutation()
  const [hold] = api.useHoldTaskMutation()
  const [move] = api.useMoveTaskMutation()
  const s = useSortable({ id: t.id, disabled: !drag })
  const act = useAct()
  const dispatch = useAppDispatch()
  const [account, setAccount] = useState(false)
  const live = t.state === 'running' || t.state === 'held'
  const colour = { failed: 'text-pomegranate', done: 'text-leaf', running: 'text-tide', held: 'text-ink-2', waiting: 'text-ink-3', cancelled: 'text-ink-3' }[
    t.state
  ]
  return (
    <tr
      ref={s.setNodeRef}
      style={{ transform: CSS.Translate.toString(s.transform), transition: s.transition }}
      className={`h-9 border-t border-line/60 align-middle ${s.isDragging ? 'relative z-10 bg-raised' : ''}`}
    >
      <td className="mono max-w-[280px] overflow-hidden py-1.5 pr-3 pl-1 text-ellipsis whitespace-nowrap">
        <span className="inline-block w-6 align-middle">
          {drag && (
            <button type="button" aria-label={`Move ${t.label}`} className="cursor-grab text-ink-3 hover:text-ink" {...s.attributes} {...s.listeners}>
              <GripVertical size={14} />
            </button>
          )}
        </span>
        {t.label}
      </td>
      <td className={`py-1.5 ${colour}`}>{t.heldAlone ? 'held by itself' : words[t.state]}</td>
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
        <span className="flex items-center justify-end gap-1">
          {t.state === 'waiting' && next !== null && next !== t.id && (
            <Button quiet onClick={() => void act(move({ taskId: t.id, before: next }))}>
              Make next
            </Button>
          )}
          {(t.state === 'waiting' || t.state === 'running') && (
            <Button quiet aria-label={`Hold ${t.label}`} onClick={() => void act(hold({ taskId: t.id, held: true }))}>
              <Pause size={13} aria-hidden />
            </Button>
          )}
          {t.heldAlone && (
            <Button aria-label={`Let ${t.label} go on`} onClick={() => void act(hold({ taskId: t.id, held: false }))}>
              <Play size={13} aria-hidden /> Go on
            </Button>
          )}
          {(t.state === 'waiting' || live) && <Button onClick={() => void act(cancel(t.id))}>Cancel</Button>}
        </span>
        {t.kind === 'take-in' && t.state === 'done' && <Button onClick={() => setAccount(true)}>Show contents</Button>}
        {account && <AccountDialog taskId={t.id} onClose={() => setAccount(false)} />}
        {(t.state === 'failed' || t.state === 'cancelled') && (
          <span className="flex items-center justify-end gap-1">
            {t.damaged && (
              <Button
                title="Up to the frame that cannot be decoded; the copy stays marked as incomplete"
                onClick={() => void act(retry({ taskId: t.id, asFar: true }), 'It is made as far as it goes.')}
              >
                As far as it goes
              </Button>
            )}
            {t.kind === 'copy' && <OtherSpec taskId={t.id} label={t.label} />}
            <Button onClick={() => void act(retry({ taskId: t.id }), 'It is tried again.')}>Try again</Button>
          </span>
        )}
      </td>
    </tr>
  )
}

/** Another spec to make a copy by that failed. */
function OtherSpec({ taskId, label }: { taskId: string; label: string }) {
  const { data: specs } = api.useSpecsQuery({ projectId: useProjectId() })
  const [retry] = api.useRetryWithMutation()
  const act = useAct()
  return (
    <Select
      label={`Make ${label} by another spec`}
      className="w-[92px] py-0.5"
      value=""
      onChange={(v) => v && void act(retry({ taskId: taskId, spec: v }), (s) => s.message)}
    >
      <option value="">By …</option>
      {specs?.map((s) => (
        <option key={s.code} value={s.code}>
          {s.name}
        </option>
      ))}
    </Select>
  )
}
