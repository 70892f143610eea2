/** Pictures and sound: the player, scopes, the meter. */
export { Scopes } from './Scopes.tsx'
export { pointIn, Viewer } from './Viewer.tsx'
