/** The page that sums a project up. */
export { ProjectPage } from './ProjectPage.tsx'
