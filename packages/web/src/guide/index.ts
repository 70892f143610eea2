/** The guide: a page for each step, read offline. */
import { later } from '../ui/index.ts'

export { guideFor } from './pages.ts'
export const Guide = later(() => import('./Guide.tsx').then((m) => m.Guide))
