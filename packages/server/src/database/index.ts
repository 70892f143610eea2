/** The database itself: MariaDB through TypeORM, its tables step by step, and all that it holds as one file and back. */
export { connected, databaseOf, stepsGone } from './connect.ts'
export { makePatient, patiently, whole } from './patience.ts'
export { clearBeside, keepSave, readSave, restoreFrom, SaveError, savesFolder, saveTo } from './save.ts'
export { type Step, steps } from './steps.ts'
export { expectSchema, goSteps, SchemaError, schemaVersion, upgrade } from './upgrade.ts'
