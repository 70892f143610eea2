/** What can be heard: linear timecode on a sound track, and one sound in another. */
export * from './align.ts'
export * from './fourier.ts'
export * from './loudness.ts'
export * from './ltc.ts'
