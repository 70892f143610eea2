/** Offers to finish what has no original that can be read from the checked intermediates that are here. */
import type { PlanRow } from '@naranja/contract'
import { api } from '../api/index.ts'
import { useAct, useProjectId } from '../state/index.ts'
import { Button, plural } from '../ui/index.ts'

export function FinishFromCopies({ events }: { events: readonly PlanRow[] }) {
  const projectId = useProjectId()
  const act = useAct()
  const [setFinishing, { isLoading }] = api.useSetFinishingMutation()
  const names = new Map(events.flatMap((e) => (e.couldFinish && e.clipId ? [[e.clipId, e.name] as const] : [])))
  const clipIds = [...names.keys()]
  if (clipIds.length === 0) return null
  return (
    <Button
      disabled={isLoading}
      title={`${[...names.values()].slice(0, 12).join(', ')}: what cannot be read now is read from a checked intermediate instead, and the report says so`}
      onClick={() => void act(setFinishing({ projectId, clipIds, from: 'intermediate' }), (c) => c.sentence, projectId)}
    >
      {clipIds.length === 1 ? `Finish ${[...names.values()][0]} from its intermediate` : `Finish ${plural(clipIds.length, 'clip')} from their intermediates`}
    </Button>
  )
}
