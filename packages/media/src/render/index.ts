/** Parts of a plan rendered and joined, and pieces to play. */
export { mixPiece, type Piece, piece, soundPiece } from './playback.ts'
export { joinSegments, partGraph, renderedBy, renderPart, type RenderSource, type RenderTarget, segmentKey } from './render.ts'
