/** The whole job without the page. */
export { job, jobOn } from './job.ts'
