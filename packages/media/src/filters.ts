/** Codec arguments and filters that copying, sampling and rendering share. */
import type { Size } from '@naranja/core/framing'
import { sampleSize } from '@naranja/core/picture'
import type { Spec } from '@naranja/core/specs'

/** Codec arguments of each picture coding a spec can ask for. */
export const videoArgs: Record<Spec['video'], readonly string[]> = {
  h264: ['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '23', '-g', '25', '-bf', '0', '-pix_fmt', 'yuv420p'],
  'prores-proxy': ['-c:v', 'prores', '-profile:v', '0', '-pix_fmt', 'yuv422p10le'],
  'prores-hq': ['-c:v', 'prores', '-profile:v', '3', '-pix_fmt', 'yuv422p10le'],
  'dnxhr-sq': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_sq', '-pix_fmt', 'yuv422p'],
  'dnxhr-hqx': ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_hqx', '-pix_fmt', 'yuv422p10le'],
}

/** The matrix that pictures are read with: as tagged, BT.709 where the file says nothing. */
const matrices: Record<string, string> = { bt2020nc: 'bt2020', bt470bg: 'bt601', smpte170m: 'bt601' }
export const matrixIn = (tag: string): string => matrices[tag] ?? 'bt709'

/** The filter that brings a picture to a size in BT.709, limited range. */
export const scaleFilter = (size: Size, matrix: string, flags = 'bicubic'): string =>
  `scale=${size.width}:${size.height}:flags=${flags}:in_color_matrix=${matrixIn(matrix)}:out_color_matrix=bt709:out_range=tv,setsar=1`

export const colourTags = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv']

/** Scales to the size and greyness of samples. */
export const sampleFilter = `scale=${sampleSize.width}:${sampleSize.height}:flags=area,format=gray`

/** `select` expression for frames counted from 0: ranges joined, so that it stays short. */
export function selectExpression(frames: readonly number[]): string {
  const parts: string[] = []
  for (let i = 0; i < frames.length; ) {
    let j = i
    while (j + 1 < frames.length && frames[j + 1] === (frames[j] ?? 0) + 1) j++
    parts.push(i === j ? `eq(n,${frames[i]})` : `between(n,${frames[i]},${frames[j]})`)
    i = j + 1
  }
  return parts.join('+')
}
