/** The API, asked from the command line. */
export { ApiError, Client } from './client.ts'
