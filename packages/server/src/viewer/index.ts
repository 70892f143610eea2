/** Pictures, sound and playback of clips, copies and cuts. */
export { viewerRoutes } from './routes.ts'
export { Viewer } from './viewer.ts'
