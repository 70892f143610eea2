/** Specs of edit copies. */
export { Specs } from './Specs.tsx'
