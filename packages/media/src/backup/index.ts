/** Verified backups of cards, and the check of a backup against its own history. */
export * from './backup.ts'
export * from './model.ts'
export { addGeneration, readHistory } from './history.ts'
export { PlaceUnusable } from './place.ts'
export * from './verify.ts'
