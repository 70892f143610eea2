/** Where in a frame there is most to see, found at its own pixels. */
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { busiest } from '@naranja/core/picture'
import { rate } from '@naranja/core/time'
import { afterAll, expect, it } from 'vitest'
import { detailMap } from './frames.ts'
import { ffmpeg } from '../ffmpeg/run.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja detail '))
afterAll(() => rmSync(folder, { recursive: true }))

it('is the fine texture, though a small sample shows it as flat, and not the large shape that stands out there', async () => {
  const path = join(folder, 'texture.mkv')
  // A bright disc with a soft edge at the upper left, and lines of one pixel at the lower right.
  const disc = '90+120*lt(hypot(X-400,Y-300),200)'
  const lines = '90+60*(mod(X,2)*2-1)'
  const picture = `geq=lum='if(gt(X,1300)*lt(X,1700)*gt(Y,600)*lt(Y,850),${lines},${disc})':cb=128:cr=128,gblur=sigma=0`
  await ffmpeg(['-y', '-f', 'lavfi', '-i', 'color=black:s=1920x1080:r=25', '-vf', `format=yuv444p,${picture}`, '-frames:v', '1', '-c:v', 'ffv1', path])
  const map = await detailMap({ path: Buffer.from(path), sequence: null, rate: rate(25) }, 0)
  const at = busiest(map, { width: 0.15, height: 0.17 })
  expect(Math.hypot(at.x * 1920 - 1500, at.y * 1080 - 725)).toBeLessThan(110)
})
