/** Events tied to originals. */
export { Reconnect } from './Reconnect.tsx'
