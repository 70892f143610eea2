/** What changed between two turnovers of a cut. */
export * from './compare.ts'
