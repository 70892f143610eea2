/** Which original an edit copy is of that was made elsewhere, or comes back: by its stamp, else by name, folder, timecode and count. */
export * from './model.ts'
export * from './naming.ts'
export * from './pair.ts'
