/** Charts of quantities, each loaded when it is first shown: what draws them is large. */
import { laterPart } from '../ui/index.ts'

export const AnglesChart = laterPart(() => import('./AnglesChart.tsx').then((m) => m.AnglesChart))
export const Quantity = laterPart(() => import('./Quantity.tsx').then((m) => m.Quantity))
export const SpaceChart = laterPart(() => import('./SpaceChart.tsx').then((m) => m.SpaceChart))
