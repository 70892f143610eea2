/** What was changed in a project by hand, by whom and when; each of it can be taken back. */
import { api } from '../../api/index.ts'
import { useProjectId, useUndo } from '../../state/index.ts'
import { Button } from '../../ui/index.ts'

export function History() {
  const id = useProjectId()
  const { data: changes } = api.useChangesQuery(id)
  const undo = useUndo()
  return (
    <section>
      <h2 className="m-0 mb-2 text-[15px] font-[650]">History</h2>
      <ul className="m-0 list-none p-0">
        {changes?.map((c) => (
          <li key={c.id} className={`flex items-start gap-2 border-b border-line/70 py-1.5 ${c.undone ? 'text-ink-3' : ''}`}>
            <div className="min-w-0 flex-1">
              <span className={c.undone ? 'line-through' : ''}>{c.sentence}</span>
              <div className="text-xs text-ink-3">
                {c.who}, {new Date(c.when).toLocaleString('en-GB')}
                {c.undone && ', taken back'}
              </div>
            </div>
            {!c.undone && (
              <Button quiet className="py-0.5" aria-label={`Undo: ${c.sentence}`} onClick={() => undo(id, c.id)}>
                Undo
              </Button>
            )}
          </li>
        ))}
        {changes?.length === 0 && <li className="text-ink-3">Nothing has been changed by hand yet.</li>}
      </ul>
    </section>
  )
}
