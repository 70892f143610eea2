/** One clip: its picture, what to notice, its facts. */
export { ClipPanel } from './ClipPanel.tsx'
export { useTriedLook } from './LookTrial.tsx'
export { isLightClip } from './words.ts'
