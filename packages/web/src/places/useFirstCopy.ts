/** Where the first edit copy of a folder would stand, for places that are chosen before the folder is taken in. */
import type { Place } from '@naranja/contract'
import { skipToken } from '@reduxjs/toolkit/query'
import { api } from '../api/index.ts'
import { useProjectId } from '../state/index.ts'
import type { Target } from './TargetPicker.tsx'

/** Its whole path; null while the folder, the spec or the place is missing, and where the folder holds no picture. */
export function useFirstCopy(folder: Place | null, spec: string | undefined, { place, look }: Target): string | null {
  const projectId = useProjectId()
  const { currentData } = api.useFirstCopyQuery(folder && spec && place ? { projectId, volumeId: folder.volumeId, ref: folder.ref, spec } : skipToken)
  return look && currentData?.path ? `${look.path}/${currentData.path}` : null
}
