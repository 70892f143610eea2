/** Cut lists: imported, read, changed, saved. */
export { Changes } from './Changes.tsx'
export { CutLists } from './CutLists.tsx'
export { EventTable } from './EventTable.tsx'
export { SaveListDialog } from './SaveListDialog.tsx'
export { CutName, NoCut } from './parts.tsx'
export { type CutView, editStill, hasPictures, openLink, useCutView } from './useCutView.ts'
