/** What becomes of originals while they are taken in: backups and edit copies, each with its place. */
import type { IntakePlan, SpecRow } from '@naranja/contract'
import { useState } from 'react'
import { api } from '../../api/index.ts'
import { useProjectId } from '../../state/index.ts'
import { type Target, useTarget } from '../../places/index.ts'

export interface IntakeChoices {
  readonly first: Target
  readonly second: Target
  readonly copiesTo: Target
  /** Specs of the edit copies; empty where none are made. */
  readonly specs: readonly string[]
  readonly setSpecs: (codes: readonly string[]) => void
  readonly kinds: readonly SpecRow[]
  /** Their spec puts the copies beside the originals: they need no place of their own. */
  readonly beside: boolean
  readonly leaveEasy: boolean
  readonly setLeaveEasy: (on: boolean) => void
  /** What is asked for; null while something is missing. */
  readonly plan: IntakePlan | null
  readonly fill: (plan: IntakePlan) => void
}

/** `backUp`: a backup is wanted, and lacks its place until one is chosen. */
export function useIntake(backUp = false): IntakeChoices {
  const { data } = api.useSpecsQuery({ projectId: useProjectId() })
  const kinds = data?.filter((s) => s.kind === 'proxy' || s.kind === 'intermediate') ?? []
  const first = useTarget('backups', 'Originals', { wanted: backUp })
  const second = useTarget('second-backups', 'Originals', { wanted: false })
  const copiesTo = useTarget('copies', 'Edit copies', { wanted: false })
  const [chosen, setSpecs] = useState<readonly string[]>([])
  const [leaveEasy, setLeaveEasy] = useState(false)
  const usual = (kinds.find((s) => s.isDefault) ?? kinds[0])?.code
  const specs = chosen.length > 0 ? chosen : copiesTo.place && usual ? [usual] : []
  const beside = specs.length > 0 && specs.every((c) => kinds.find((s) => s.code === c)?.place.how === 'beside')
  const lacks = (t: Target, wanted: boolean): boolean => (wanted || t.place !== null) && !t.ready
  const missing = lacks(first, backUp) || lacks(second, false) || (specs.length > 0 && !beside && !copiesTo.ready)
  return {
    ...{ first, second, copiesTo, specs, kinds, beside, leaveEasy, setLeaveEasy },
    setSpecs: (codes) => {
      setSpecs(codes)
      if (codes.length === 0) copiesTo.set(null)
    },
    plan: missing
      ? null
      : {
          backupTo: [first.place, first.place && second.place].filter((t) => t !== null),
          copies: specs.length > 0 ? { specs: [...specs], leaveEasy, folder: '', ...(beside ? {} : copiesTo.place) } : null,
        },
    fill: ({ backupTo: [one = null, two = null], copies }) => {
      first.set(one)
      second.set(two)
      copiesTo.set(copies?.volumeId ? { volumeId: copies.volumeId, folder: copies.folder } : null)
      setSpecs(copies?.specs ?? [])
      setLeaveEasy(copies?.leaveEasy ?? false)
    },
  }
}
