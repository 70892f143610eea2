/** The API, asked from the command line. */
export { ApiError, Client, textOf } from './client.ts'
