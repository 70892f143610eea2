/** The way in: routes, browsers that are known, workers on other machines. */
export { type Door, openDoor, openDoorOf } from './door.ts'
export { KnownBrowsers } from './known.ts'
export { mountRoutes } from './mount.ts'
