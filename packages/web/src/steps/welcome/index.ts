/** The first page. */
export { Welcome } from './Welcome.tsx'
