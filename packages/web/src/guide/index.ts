/** The guide: a page for each step, read offline. */
import { lazy } from 'react'

export { guideFor } from './pages.ts'
export const Guide = lazy(() => import('./Guide.tsx'))
