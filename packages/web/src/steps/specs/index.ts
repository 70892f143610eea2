/** Specs of edit copies. */
import { later } from '../../ui/index.ts'

export const Specs = later(() => import('./Specs.tsx').then((m) => m.Specs))
