/** Cuts as files: tables read, and edit decision lists and OpenTimelineIO written of any cut, with what they cannot carry. */
export * from './edl.ts'
export * from './otio.ts'
export * from './point.ts'
export * from './reels.ts'
export * from './table.ts'
