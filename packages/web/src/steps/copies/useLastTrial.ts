/** The trial of this project that was made last, whoever began it. */
import type { TaskRow, TrialResult } from '@naranja/contract'
import { mostAngles } from '@naranja/core/estimate'
import { api } from '../../api/index.ts'
import { useLastTask } from '../../state/index.ts'

export function useLastTrial(): { task: TaskRow | undefined; busy: boolean; result: TrialResult | undefined } {
  const { task, busy } = useLastTask('trial')
  const { data: result } = api.useTrialQuery(task?.id ?? '', { skip: task?.state !== 'done' })
  return { task, busy, result }
}

export const anglesText = (n: number): string =>
  n >= mostAngles ? `${mostAngles} or more at once` : n === 0 ? 'not in real time' : n === 1 ? 'one at a time' : `${n} at once`
