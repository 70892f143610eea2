/** Parts of a plan rendered and joined, and pieces to play. */
export { mixPiece, type Piece, piece, soundPiece } from './playback.ts'
export { joinSegments, partGraph, renderPart, type RenderSource, type RenderTarget, segmentKey } from './render.ts'
