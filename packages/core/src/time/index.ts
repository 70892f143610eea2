/** Time in whole frames at exact rates. */
export * from './map.ts'
export * from './range.ts'
export * from './rate.ts'
export * from './timecode.ts'
