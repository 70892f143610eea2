/** Work that is handed out: batches, turns, and what a runner of a kind is given. */
export { type RunTask, type RunTools, Told } from './runner.ts'
export {
  accountOf,
  batchRow,
  batchTasks,
  cancelTasks,
  holdTask,
  isPaused,
  keepTidy,
  limitOf,
  listQueue,
  machinesNow,
  markProducts,
  moveTask,
  type NewTask,
  pauseQueue,
  progressNow,
  reconcile,
  resultOf,
  retryTasks,
  setLimit,
  setPriority,
  startBatch,
  topicsOf,
} from './service.ts'
export { SpentClock } from './spent.ts'
export { addTurns, taskForTurn } from './turns.ts'
