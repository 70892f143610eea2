/** What edit copies are made of which clips, and what is left out. */
export * from './copying.ts'
