/** What failed of the work that was started on a page, said there, with a second try. */
import type { TaskKind } from '@naranja/contract'
import { Link } from 'react-router'
import { api } from '../api/index.ts'
import { dismissBatch, useAct, useAppDispatch, useAppSelector, useProjectId } from '../state/index.ts'
import { Button, NoticeMark, plural } from '../ui/index.ts'

/** The latest batch of these kinds, where some of it has failed and nothing of it runs any more. */
export function WhatFailed({ kinds }: { kinds: readonly TaskKind[] }) {
  const projectId = useProjectId()
  const { data: queue } = api.useQueueQuery({ projectId })
  const dismissed = useAppSelector((s) => s.face.dismissed)
  const dispatch = useAppDispatch()
  const [retry] = api.useRetryBatchMutation()
  const act = useAct()
  const tasks = queue?.tasks.filter((t) => kinds.includes(t.kind)) ?? []
  const latest = tasks.reduce<(typeof tasks)[number] | undefined>((last, t) => (last && last.created >= t.created ? last : t), undefined)
  const failed = tasks.filter((t) => t.batchId === latest?.batchId && t.state === 'failed')
  const [first] = failed
  if (!latest || !first || dismissed.includes(latest.batchId) || tasks.some((t) => t.batchId === latest.batchId && t.state === 'running')) return null
  const batch = queue?.batches.find((b) => b.id === latest.batchId)
  return (
    <div role="alert" className="flex flex-none items-start gap-3 border-b border-line bg-panel px-4 py-2">
      <span className="mt-1">
        <NoticeMark severity="error" />
      </span>
      <p className="m-0 min-w-0 flex-1">
        <b className="font-[650]">
          {batch && batch.tasks > 1 ? `${plural(batch.failed, 'task')} of ${batch.tasks} failed: ` : ''}
          {first.label}
        </b>{' '}
        {first.error}
      </p>
      {failed.length > 1 && (
        <Link to={`/p/${projectId}/queue`} className="py-[5px] whitespace-nowrap text-ink-2 underline">
          Show all in the queue
        </Link>
      )}
      <Button onClick={() => void act(retry(latest.batchId), 'It is tried again.')}>Try again</Button>
      <Button quiet onClick={() => dispatch(dismissBatch(latest.batchId))}>
        Dismiss
      </Button>
    </div>
  )
}
