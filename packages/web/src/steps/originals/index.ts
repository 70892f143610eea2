/** Originals: taken in, listed, described, looked at. */
import { later } from '../../ui/index.ts'

export { Coming } from './Coming.tsx'
export { RuleDialog } from './RuleDialog.tsx'
export { UnsafeNotice } from './UnsafeNotice.tsx'
export const Originals = later(() => import('./Originals.tsx').then((m) => m.Originals))
