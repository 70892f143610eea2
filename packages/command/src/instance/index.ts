/** Instances: their servers, started, watched and ended. */
export { during, Instance, instanceFolder, passing } from './instance.ts'
export { address, demo, start, stop } from './serve.ts'
