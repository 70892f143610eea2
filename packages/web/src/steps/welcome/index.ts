/** The first page. */
import { later } from '../../ui/index.ts'

export const Welcome = later(() => import('./Welcome.tsx').then((m) => m.Welcome))
