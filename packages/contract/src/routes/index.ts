/** Every route, in one table: servers, pages, the command and tests are made from it. */
import { conformRoutes } from './conform.ts'
import { copiesRoutes } from './copies.ts'
import { cutsRoutes } from './cuts.ts'
import { instanceRoutes } from './instance.ts'
import { originalsRoutes } from './originals.ts'
import { picturesRoutes } from './pictures.ts'
import { projectsRoutes } from './projects.ts'
import { reconnectRoutes } from './reconnect.ts'
import { specsRoutes } from './specs.ts'
import { tasksRoutes } from './tasks.ts'
import { volumesRoutes } from './volumes.ts'

export {
  addressOf,
  addressSoFar,
  type Answer,
  type Arg,
  type Input,
  type ParamsOf,
  paramNames,
  requestOf,
  type Route,
  type Schema,
  type Tag,
  tags,
} from './route.ts'

export { AnswersHeld, byRows, changedBy, type RowsChanged, type Stretch } from './rows.ts'

export const routes = {
  ...conformRoutes,
  ...copiesRoutes,
  ...cutsRoutes,
  ...instanceRoutes,
  ...originalsRoutes,
  ...picturesRoutes,
  ...projectsRoutes,
  ...reconnectRoutes,
  ...specsRoutes,
  ...tasksRoutes,
  ...volumesRoutes,
}
export type RouteName = keyof typeof routes
