/** What the server and its clients agree on: every resource, request and event as a schema. */
export * from './backups.ts'
export * from './basics.ts'
export * from './conform.ts'
export * from './copies.ts'
export * from './cutlists.ts'
export * from './originals.ts'
export * from './projects.ts'
export * from './tasks.ts'
