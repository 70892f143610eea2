/** A project and this instance. */
import { later } from '../../ui/index.ts'

export const Settings = later(() => import('./Settings.tsx').then((m) => m.Settings))
