/** What people call a clip by: typed, taken from other fields by rule, or read from a table file. */
export * from './fields.ts'
export * from './rule.ts'
export * from './table.ts'
