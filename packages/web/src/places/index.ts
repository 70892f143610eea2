/** Drives and folders: chosen, browsed, typed, looked for. */
export { CardReader } from './CardReader.tsx'
export { FolderPicker } from './FolderPicker.tsx'
export { LookForButton } from './LookForDialog.tsx'
export { type Target, TargetPicker, useTarget } from './TargetPicker.tsx'
export { TypedFolder } from './TypedFolder.tsx'
export { useFirstCopy } from './useFirstCopy.ts'
