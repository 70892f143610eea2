/** FFmpeg as a process: run, fed, told what it may open. */
export { fed, feedName } from './feeds.ts'
export {
  bt709,
  type Colour,
  colourArgs,
  colourFilter,
  copyColour,
  layoutFilters,
  matrixIn,
  pixelsOf,
  sampleFilter,
  scaleFilter,
  selectExpression,
  traceFilter,
  videoArgs,
} from './filters.ts'
export { fileInput, guards, pointsElsewhere } from './forms.ts'
export { commandLine, ffmpeg, mediaError, MediaError, output, type RunOptions, started, startedPieces, streamed, threadArgs } from './run.ts'
