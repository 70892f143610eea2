/** Instances: their servers, started, watched and ended. */
export { during, Instance, instanceFolder, passing } from './instance.ts'
export { address, buildWeb, demo, start, stop } from './serve.ts'
