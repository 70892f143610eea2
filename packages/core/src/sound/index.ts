/** What can be heard: linear timecode on a sound track. */
export * from './ltc.ts'
