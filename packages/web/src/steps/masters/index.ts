/** Masters: rendered and proved. */
export { Masters } from './Masters.tsx'
