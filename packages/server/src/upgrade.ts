/** Brings the tables of an instance up to date, and ends: run by the start of an instance before anything else of it. */
import { readConfig } from './config/index.ts'
import { upgrade } from './database/index.ts'

try {
  await upgrade(readConfig(process.argv[2] ?? ''))
  process.exit(0)
} catch (e) {
  process.stderr.write(`${e instanceof Error ? e.message : e}\n`)
  process.exit(1)
}
