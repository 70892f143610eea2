/** What happened, said once; refusals stay until they are put away. */
import { X } from 'lucide-react'
import { useEffect } from 'react'
import { api } from '../api/index.ts'
import { Button } from '../ui/index.ts'
import { dismiss, type Message, takeMine, useAct, useAppDispatch, useAppSelector, useUndo } from '../state/index.ts'

export function Messages() {
  const messages = useAppSelector((s) => s.face.messages)
  return (
    <div role="status" aria-live="polite" className="pointer-events-none fixed bottom-9 left-[184px] z-[60] flex w-[400px] flex-col gap-2">
      {messages.map((m) => (
        <One key={m.id} m={m} />
      ))}
    </div>
  )
}

function One({ m }: { m: Message }) {
  const dispatch = useAppDispatch()
  const undo = useUndo()
  const [restore] = api.useRestoreSpecMutation()
  const act = useAct()
  useEffect(() => {
    if (m.kind === 'refused') return
    const t = setTimeout(() => dispatch(dismiss(m.id)), 6000)
    return () => clearTimeout(t)
  }, [dispatch, m])
  return (
    <div
      className={`pointer-events-auto flex items-start gap-2 rounded-md border bg-raised px-3 py-2 shadow-lg ${m.kind === 'refused' ? 'border-pomegranate' : 'border-line'}`}
    >
      <div className="min-w-0 flex-1">
        <div className="break-words">{m.text}</div>
        {m.choice && (
          <div className="mt-2 flex gap-1.5">
            <Button className="py-0.5" onClick={() => dispatch(dismiss(m.id))}>
              Keep what stands there
            </Button>
            <Button
              className="py-0.5"
              onClick={() => {
                takeMine(m.choice as string)
                dispatch(dismiss(m.id))
              }}
            >
              {m.takes ?? 'Put mine in its place'}
            </Button>
          </div>
        )}
        {m.details.length > 0 && (
          <ul className="m-0 mt-1 max-h-40 overflow-auto pl-4 text-xs text-ink-2">
            {m.details.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
        )}
      </div>
      {m.undoIn && (
        <Button
          className="py-0.5"
          onClick={() => {
            undo(m.undoIn as string, m.undoes ?? undefined)
            dispatch(dismiss(m.id))
          }}
        >
          Undo
        </Button>
      )}
      {m.spec && (
        <Button
          className="py-0.5"
          onClick={() => {
            void act(restore(m.spec as string))
            dispatch(dismiss(m.id))
          }}
        >
          Bring it back
        </Button>
      )}
      <button type="button" aria-label="Dismiss" className="text-ink-2 hover:text-ink" onClick={() => dispatch(dismiss(m.id))}>
        <X size={14} />
      </button>
    </div>
  )
}
