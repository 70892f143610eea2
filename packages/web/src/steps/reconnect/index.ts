/** Events tied to originals. */
import { later } from '../../ui/index.ts'

export const Reconnect = later(() => import('./Reconnect.tsx').then((m) => m.Reconnect))
