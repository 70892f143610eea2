/** Parts of a plan rendered and joined, and pieces to play. */
export { mixPiece, type PlaybackStream, piece, soundPiece } from './playback.ts'
export { joinSegments, partGraph, renderedBy, renderPart, renderParts, type RenderSource, type RenderTarget, type Segment, segmentKey } from './render.ts'
