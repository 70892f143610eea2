/** What is being worked on. */
import { later } from '../../ui/index.ts'

export const QueuePage = later(() => import('./QueuePage.tsx').then((m) => m.QueuePage))
