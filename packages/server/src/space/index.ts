/** What takes room, and which copies may go. */
export { spaceRoutes } from './routes.ts'
