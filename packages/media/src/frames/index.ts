/** Frames of files, one by one or all in one go. */
export { asRgb, codesAt, type NativeFrame, nativeFrame, type Taken } from './deep.ts'
export { detail, detailMap, jpegArgs, printsOf, type SampleOptions, samples, splitSamples, stills } from './frames.ts'
export { lookFile, lookFilter } from './look.ts'
export { endsInTime, misplaced, readBack, readPackets, readSound, type SoundBack, soundBeside } from './readback.ts'
