/** Instances: their servers, started, watched and ended. */
export { during } from './during.ts'
export { Instance, passing } from './instance.ts'
export { instanceFolder } from './known.ts'
export { address, demo, start, stop } from './serve.ts'
