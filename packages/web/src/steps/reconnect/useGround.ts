/** The day chart that events land on. */
import type { CutDetail, LaneClip } from '@naranja/contract'
import { useMemo, useState } from 'react'
import { foldLanes, landingsOf, layDays, settled } from '../../charts/index.ts'
import type { CutView } from '../cutlists/index.ts'
import { groupsOf } from './groups.ts'

/** Rolls are folded from so many lanes on. */
const foldFrom = 24

/** The day chart that events land on, and where each of them does. Rolls that ask for nothing are folded where there are many. */
export function useGround(cut: CutDetail | undefined, byId: CutView['byId'], lanes: readonly LaneClip[]) {
  const [folds, setFolds] = useState(true)
  const whole = useMemo(() => layDays(lanes), [lanes])
  const clips = useMemo(() => new Map(lanes.map((l) => [l.id, l])), [lanes])
  const wanted = useMemo(() => (cut ? groupsOf(cut, byId, 'not-found') : []), [cut, byId])
  const onAll = useMemo(() => landingsOf(cut?.events ?? [], byId, whole, clips), [cut, byId, whole, clips])
  const folded = useMemo(() => {
    if (whole.lanes.length < foldFrom) return { chart: whole, members: new Map<string, readonly string[]>() }
    const calm = (lane: string) => [...(onAll.rolls.get(lane) ?? [])].every((id) => settled.has(byId.get(id)?.state ?? 'likely'))
    return foldLanes(whole, calm)
  }, [whole, onAll, byId])
  const { chart, members } = folds ? folded : { chart: whole, members: folded.members }
  const landings = useMemo(() => (chart === whole ? onAll : landingsOf(cut?.events ?? [], byId, chart, clips)), [cut, byId, chart, whole, onAll, clips])
  return { chart, clips, wanted, landings, members, folds, setFolds }
}
export type Ground = ReturnType<typeof useGround>
