/** The measured figures, each against a baseline of the same run. */
export { bench } from './bench.ts'
