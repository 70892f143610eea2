/** Reconnection: which original an event is, at which frames, and why. */
export { type ReconnectOptions, Reconnection, reconnect } from './decide.ts'
export { weigh } from './evidence.ts'
export { type Inventory, inventory } from './inventory.ts'
export { clipTimecode, frameShown, type Located, locate } from './locate.ts'
export * from './model.ts'
export * from './ownFile.ts'
export * from './rules.ts'
export * from './shift.ts'
