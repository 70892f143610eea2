/** The specs that are there from the start. */
import { plainSpec, type Spec } from './model.ts'

export const specs: readonly Spec[] = [
  {
    ...plainSpec,
    code: 'h264-proxy-720',
    name: 'H.264 proxy 720',
    purpose: 'Light copies for a laptop, a slow line or a remote editor.',
    kind: 'proxy',
    coding: 'h264',
    frame: { by: 'height', height: 720 },
    sound: { ...plainSpec.sound, coding: 'pcm16' },
  },
  {
    ...plainSpec,
    code: 'prores-proxy-1080',
    name: 'ProRes proxy 1080',
    purpose: 'For cutting with several angles at once; every frame is stored on its own.',
    kind: 'proxy',
    coding: 'prores-proxy',
    frame: { by: 'height', height: 1080 },
  },
  {
    ...plainSpec,
    code: 'dnxhr-sq',
    name: 'DNxHR SQ intermediate',
    purpose: "Full-size copies for cutting and for effects, at the original's size.",
    kind: 'intermediate',
    coding: 'dnxhr-sq',
  },
  {
    ...plainSpec,
    code: 'rewrapped',
    name: 'Rewrapped',
    purpose: 'Clips that are easy to edit already, in a new file with name, timecode and reel; nothing is re-encoded.',
    kind: 'intermediate',
    coding: 'unchanged',
  },
  {
    ...plainSpec,
    code: 'pull-dnxhr-hqx',
    name: 'DNxHR HQX pull',
    purpose: "Used ranges with handles in 10 bit 4:2:2, at the original's size, for finishing.",
    kind: 'pull',
    coding: 'dnxhr-hqx',
  },
  {
    ...plainSpec,
    code: 'master-prores-hq',
    name: 'ProRes 422 HQ master',
    purpose: 'The finished cut in 10 bit 4:2:2 with a timecode track.',
    kind: 'master',
    coding: 'prores-hq',
  },
]

/** The spec that is there from the start with this code or name; null if there is none. */
export const specOf = (codeOrName: string): Spec | null => specs.find((s) => s.code === codeOrName || s.name.toLowerCase() === codeOrName.toLowerCase()) ?? null
