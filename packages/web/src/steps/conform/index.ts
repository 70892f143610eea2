/** Pulls and lists of a cut. */
import { later } from '../../ui/index.ts'

export const Conform = later(() => import('./Conform.tsx').then((m) => m.Conform))
