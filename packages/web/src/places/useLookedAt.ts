/** A folder that is looked at before it is written to. */
import type { Purpose, TargetFolder, TargetLook } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { api, refusal } from '../api/index.ts'

/** A place that is looked at before it is written to. */
export function useLookedAt(place: TargetFolder | null, purpose: Purpose): { look: TargetLook | undefined; ready: boolean; why: string } {
  const { currentData: look, error } = api.useTargetLookQuery(place ? { ...place, purpose } : skipToken)
  return {
    look,
    ready: Boolean(place && look?.here && !look.refusal),
    why: place ? (refusal(error)?.message ?? look?.refusal ?? (look && !look.here ? `${look.volume} is away.` : '')) : '',
  }
}
