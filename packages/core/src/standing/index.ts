/** Which file stands for an original, and how a copy stands to it. */
export * from './standing.ts'
