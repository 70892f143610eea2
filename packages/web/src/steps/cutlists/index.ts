/** Cut lists: imported, read, changed, saved. */
import { later } from '../../ui/index.ts'

export { EventTable } from './EventTable.tsx'
export { SaveListDialog } from './SaveListDialog.tsx'
export { CutName, NoCut } from './parts.tsx'
export { type CutView, editStill, hasPictures, openLink, useCutView } from './useCutView.ts'
export const Changes = later(() => import('./Changes.tsx').then((m) => m.Changes))
export const CutLists = later(() => import('./CutLists.tsx').then((m) => m.CutLists))
