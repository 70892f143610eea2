/** Instances: their servers, started, watched and ended. */
export { during } from './during.ts'
export { Instance, instanceFolder, passing } from './instance.ts'
export { address, demo, start, stop } from './serve.ts'
