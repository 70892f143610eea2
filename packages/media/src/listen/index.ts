/** Sound heard and mixed. */
export { hearTimecode, listenThrough } from './listen.ts'
export { interleaved, isSilent, masterSampleRate, renderSound, runsInRealTime, sampleOf, type SoundSource } from './mix.ts'
