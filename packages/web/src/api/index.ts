/** What the server is asked, and what it tells by itself. */
export * from './endpoints.ts'
export { listen } from './live.ts'
