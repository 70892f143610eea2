/** Pulls and lists of a cut. */
export { Conform } from './Conform.tsx'
