/** What the application keeps for itself: room on its own disk, files that can be made again, saves, and what people are told of them. */
export { endedForRoom, ownRoom, refuseWithoutRoom } from './room.ts'
export { watchRoom } from './watch.ts'
export { workingRoutes } from './routes.ts'
export { keepWorking } from './warnings.ts'
