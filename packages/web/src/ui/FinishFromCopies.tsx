/** Offers to finish what has no original that can be read from the checked intermediates that are here. */
import type { PlanRow } from '@naranja/contract'
import { useSetFinishingMutation } from '../api/index.ts'
import { useAct, useProjectId } from '../app/hooks.ts'
import { plural } from './format.ts'
import { Button } from './parts.tsx'

export function FinishFromCopies({ events }: { events: readonly PlanRow[] }) {
  const projectId = useProjectId()
  const act = useAct()
  const [setFinishing, { isLoading }] = useSetFinishingMutation()
  const clipIds = [...new Set(events.flatMap((e) => (e.couldFinish && e.clipId ? [e.clipId] : [])))]
  if (clipIds.length === 0) return null
  return (
    <Button
      disabled={isLoading}
      title="Their originals cannot be read now. A checked intermediate of each is read instead, and the report says so."
      onClick={() => void act(setFinishing({ projectId, clipIds, from: 'intermediate' }), (c) => c.sentence, projectId)}
    >
      Finish {plural(clipIds.length, 'clip')} from {clipIds.length === 1 ? 'its intermediate' : 'their intermediates'}
    </Button>
  )
}
