/** What takes room, and what may go. */
import { later } from '../../ui/index.ts'

export const SpacePage = later(() => import('./SpacePage.tsx').then((m) => m.SpacePage))
