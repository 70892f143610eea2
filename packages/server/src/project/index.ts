/** What sums up: projects, the list of their clips, and undo. */
export { projectRoutes } from './routes.ts'
