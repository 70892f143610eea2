import { laterPart } from './later.tsx'

/** Every building block in its states, for whoever works on them: a part of what is built for development alone. */
export const BlocksPage = import.meta.env.MODE === 'development' ? laterPart(() => import('./Blocks.tsx').then((m) => m.Blocks)) : null
