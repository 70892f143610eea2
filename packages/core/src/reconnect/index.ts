/** Reconnection: which original an event is, at which frames, and why. */
export { type ReconnectOptions, reconnect } from './decide.ts'
export { weigh } from './evidence.ts'
export { type Inventory, inventory } from './inventory.ts'
export { clipTimecode, frameShown, type Located, locate } from './locate.ts'
export * from './model.ts'
export * from './rules.ts'
export * from './shift.ts'
