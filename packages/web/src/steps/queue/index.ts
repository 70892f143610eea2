/** What is being worked on. */
export { QueuePage } from './QueuePage.tsx'
