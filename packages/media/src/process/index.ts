/** Processes that end with us, and what they may take. */
export { inTime, limitPassed, type Limits, processStart, tiedTo, toolCommand, writtenNow } from './process.ts'
