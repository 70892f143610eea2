/** What the server and its clients agree on: every resource, request and event as a schema, and every route in one table. */
export * from './routes/index.ts'
export * from './schemas/index.ts'
