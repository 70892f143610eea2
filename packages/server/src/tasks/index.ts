/** Work that is handed out: batches, turns, and what a runner of a kind is given. */
export { tasksRoutes } from './routes.ts'
export { type RunTask, type RunTools, ReportedFailure } from './runner.ts'
export {
  cancelTasks,
  isPaused,
  keepTidy,
  limitOf,
  machinesNow,
  markProducts,
  type NewTask,
  progressNow,
  reconcile,
  foundBy,
  retryTasks,
  startBatch,
  topicsOf,
} from './service.ts'
export { SpentClock } from './spent.ts'
export { addTurns, taskForTurn } from './turns.ts'
