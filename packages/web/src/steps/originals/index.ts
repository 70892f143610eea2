/** Originals: taken in, listed, described, looked at. */
export { Coming } from './Coming.tsx'
export { Originals } from './Originals.tsx'
export { RuleDialog } from './RuleDialog.tsx'
export { UnsafeNotice } from './UnsafeNotice.tsx'
