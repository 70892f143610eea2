/** Says once that originals have no backup. */
import { ShieldAlert } from 'lucide-react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { showAdding, useAct, useAppDispatch, useProjectId } from '../../state/index.ts'
import { Button, number, plural } from '../../ui/index.ts'

export function UnsafeNotice() {
  const projectId = useProjectId()
  const { data: s } = api.useSummaryQuery(projectId)
  const [told] = api.useTellUnsafeMutation()
  const act = useAct()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const [ask] = api.useLazyUnsafeFoldersQuery()
  if (!s || s.unsafe === 0 || s.toldUnsafe) return null
  const backUp = async () => {
    const folders = await act(ask(projectId))
    if (!folders) return
    dispatch(showAdding({ ticked: folders, backUp: true }))
    void navigate(`/p/${projectId}/originals`)
  }
  return (
    <div role="status" className="flex flex-none items-center gap-3 border-b border-line bg-panel px-4 py-2">
      <ShieldAlert size={16} className="flex-none text-lemon" aria-hidden />
      <span className="min-w-0 flex-1">
        {s.unsafe === s.originals
          ? 'None of these originals has a verified backup'
          : `${number(s.unsafe)} of ${plural(s.originals, 'original')} ${s.unsafe === 1 ? 'has' : 'have'} no verified backup`}
        : a drive that fails now takes them with it.
      </span>
      <Button onClick={() => void backUp()}>Back up</Button>
      <Button quiet onClick={() => void act(told(projectId))}>
        Go on without
      </Button>
    </div>
  )
}
