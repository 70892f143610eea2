/** A project and this instance. */
export { Settings } from './Settings.tsx'
