/** The settings that edit copies, pulls and masters are made by and checked against. */
import { byHeight, type Size } from '../framing/index.ts'

export interface Spec {
  readonly code: string
  readonly name: string
  /** What it is for, in a sentence. */
  readonly purpose: string
  readonly kind: 'proxy' | 'intermediate' | 'pull' | 'master'
  readonly video: 'h264' | 'prores-proxy' | 'prores-hq' | 'dnxhr-sq' | 'dnxhr-hqx'
  /** Height in pixels, the width following the shape; null is the original's size. */
  readonly height: number | null
  readonly wrapper: 'mov'
  readonly depth: 8 | 10
  readonly chroma: '4:2:0' | '4:2:2'
  /** Bits per pixel that a frame takes, for estimates: measured on the made-up media of the demo project. */
  readonly bitsPerPixel: number
  /** Pixels per second one machine of two cores makes, for the first estimate; measured speed replaces it. */
  readonly pixelsPerSecond: number
}

export const specs: readonly Spec[] = [
  {
    code: 'h264-proxy-720',
    name: 'H.264 proxy 720',
    purpose: 'Light copies for a laptop, a slow line or a remote editor.',
    kind: 'proxy',
    video: 'h264',
    height: 720,
    wrapper: 'mov',
    depth: 8,
    chroma: '4:2:0',
    bitsPerPixel: 0.12,
    pixelsPerSecond: 60e6,
  },
  {
    code: 'prores-proxy-1080',
    name: 'ProRes proxy 1080',
    purpose: 'For cutting with several angles at once; every frame stands alone.',
    kind: 'proxy',
    video: 'prores-proxy',
    height: 1080,
    wrapper: 'mov',
    depth: 10,
    chroma: '4:2:2',
    bitsPerPixel: 0.9,
    pixelsPerSecond: 60e6,
  },
  {
    code: 'dnxhr-sq',
    name: 'DNxHR SQ intermediate',
    purpose: "Full-size copies for cutting and for effects, at the original's size.",
    kind: 'intermediate',
    video: 'dnxhr-sq',
    height: null,
    wrapper: 'mov',
    depth: 8,
    chroma: '4:2:2',
    bitsPerPixel: 2.33,
    pixelsPerSecond: 90e6,
  },
  {
    code: 'pull-dnxhr-hqx',
    name: 'DNxHR HQX pull',
    purpose: "Used ranges with handles in 10 bit 4:2:2, at the original's size, for finishing.",
    kind: 'pull',
    video: 'dnxhr-hqx',
    height: null,
    wrapper: 'mov',
    depth: 10,
    chroma: '4:2:2',
    bitsPerPixel: 3.5,
    pixelsPerSecond: 70e6,
  },
  {
    code: 'master-prores-hq',
    name: 'ProRes 422 HQ master',
    purpose: 'The finished cut in 10 bit 4:2:2 with a timecode track.',
    kind: 'master',
    video: 'prores-hq',
    height: null,
    wrapper: 'mov',
    depth: 10,
    chroma: '4:2:2',
    bitsPerPixel: 4.4,
    pixelsPerSecond: 40e6,
  },
]

/** The spec with this code or name; null if there is none. */
export const specOf = (codeOrName: string): Spec | null => specs.find((s) => s.code === codeOrName || s.name.toLowerCase() === codeOrName.toLowerCase()) ?? null

/** The size of the picture that a spec makes of an original; never enlarged. */
export function sizeUnder(spec: Spec, source: Size, pixelAspect = 1): Size {
  const size = byHeight(source, spec.height ?? source.height, pixelAspect)
  // DNxHR needs at least 256×120.
  return spec.video.startsWith('dnxhr') ? { width: Math.max(256, size.width), height: Math.max(120, size.height) } : size
}

/** What the spec gives up against the original, in words; empty where it gives up nothing. */
export function lossesUnder(spec: Spec, source: { depth: number; chroma: string }): string[] {
  const out: string[] = []
  if (source.depth > spec.depth) out.push(`${spec.depth} bit, the original has ${source.depth}`)
  if (/^(4:4:4|RGB|raw)$/.test(source.chroma)) out.push(`${spec.chroma} colour, the original has ${source.chroma}`)
  else if (source.chroma === '4:2:2' && spec.chroma === '4:2:0') out.push('4:2:0 colour, the original has 4:2:2')
  return out
}
