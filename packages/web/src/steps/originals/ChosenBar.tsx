/** What can be done with several clips that are chosen. */
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, plural } from '../../ui/index.ts'

interface Props {
  chosen: ReadonlySet<string>
  onGive: (what: 'derive' | 'roll') => void
  /** They were taken off the list. */
  onGone: () => void
}

export function ChosenBar({ chosen, onGive, onGone }: Props) {
  const projectId = useProjectId()
  const act = useAct()
  const [tick] = api.useTickMutation()
  const [remove] = api.useRemoveClipsMutation()
  return (
    <div className="flex flex-none items-center gap-2 border-t border-line bg-panel px-3 py-1.5" role="group" aria-label="Chosen clips">
      <span className="tabular-nums">{plural(chosen.size, 'clip')} chosen</span>
      <Button className="py-[3px]" onClick={() => void act(tick({ projectId, clipIds: [...chosen], ticked: true }))}>
        Tick
      </Button>
      <Button className="py-[3px]" onClick={() => void act(tick({ projectId, clipIds: [...chosen], ticked: false }))}>
        Untick
      </Button>
      <Button className="py-[3px]" onClick={() => onGive('derive')}>
        Fill by rule
      </Button>
      <Button className="py-[3px]" onClick={() => onGive('roll')}>
        Set roll
      </Button>
      <Button quiet className="py-[3px]" onClick={() => void act(remove({ projectId, clipIds: [...chosen] }), (c) => c.sentence, projectId).then(onGone)}>
        Take off the list
      </Button>
      <span className="ml-auto text-xs text-ink-3">Ctrl+Enter puts what is typed into all of them</span>
    </div>
  )
}
