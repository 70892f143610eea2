/** Pictures, sound and playback of clips, copies and cuts. */
export { Viewer } from './service.ts'
