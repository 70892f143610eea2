/** Pictures and sound: the player, scopes, the meter. */
export { Scopes } from './Scopes.tsx'
export { pointIn } from './useAim.ts'
export { Viewer } from './Viewer.tsx'
