/** Edit copies: made, framed, compared, paired, renamed. */
import { later } from '../../ui/index.ts'

export const Copies = later(() => import('./Copies.tsx').then((m) => m.Copies))
