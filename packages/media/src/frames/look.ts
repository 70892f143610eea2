/** Looks as FFmpeg applies them. */
import { join } from 'node:path'
import { exists, graphFolder, writeWhole } from '../disk/index.ts'

/** Puts a `.cube` table where FFmpeg finds it under a name that no filter graph trips over. */
export async function lookFile(id: string, cube: string): Promise<string> {
  const path = join(graphFolder('looks'), `${id.replace(/[^0-9a-f-]/gi, '_')}.cube`)
  if (!(await exists(path))) await writeWhole(path, cube)
  return path
}

/** The filter that applies a table to red, green and blue; what comes in is BT.709, what goes out in red, green and blue. */
export const lookFilter = (look: { readonly kind: '1d' | '3d'; readonly path: string }): string =>
  `format=gbrp10le,${look.kind === '1d' ? `lut1d=file=${look.path}` : `lut3d=file=${look.path}:interp=tetrahedral`}`
