/** Masters: rendered and proved. */
import { later } from '../../ui/index.ts'

export const Masters = later(() => import('./Masters.tsx').then((m) => m.Masters))
