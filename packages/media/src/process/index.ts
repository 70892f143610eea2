/** Processes that end with us, and what they may take. */
export { inTime, limitPassed, type Limits, processStart, tiedTo, type Tool, toolCommand, writtenNow } from './process.ts'
export { reusedPipe, type ReusedPipe } from './reusedPipe.ts'
