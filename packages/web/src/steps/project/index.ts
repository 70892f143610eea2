/** The page that sums a project up. */
import { later } from '../../ui/index.ts'

export const ProjectPage = later(() => import('./ProjectPage.tsx').then((m) => m.ProjectPage))
