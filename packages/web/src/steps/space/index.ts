/** What takes room, and what may go. */
export { SpacePage } from './SpacePage.tsx'
