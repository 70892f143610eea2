import { mkdtempSync, rmSync, statSync, truncateSync } from 'node:fs'
import { copyFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { rate } from '@naranja/core/time'
import { afterAll, describe, expect, it } from 'vitest'
import { ffmpeg } from '../ffmpeg/run.ts'
import { probe } from './probe.ts'
import { isCutShort } from './whole.ts'

const folder = mkdtempSync(join(tmpdir(), "naranja's whole files "))
afterAll(() => rmSync(folder, { recursive: true }))

const picture = ['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25', '-frames:v', '40']
const kinds: [string, string[]][] = [
  ['a.mov', [...picture, '-c:v', 'prores']],
  ['head first.mp4', [...picture, '-c:v', 'libx264', '-movflags', '+faststart']],
  ['a.mxf', [...picture, '-c:v', 'mpeg2video', '-qscale', '2']],
  ['a.mkv', [...picture, '-c:v', 'ffv1']],
  ['a.wav', ['-f', 'lavfi', '-i', 'sine=d=3:r=48000']],
  ['long.wav', ['-f', 'lavfi', '-i', 'sine=d=3:r=48000', '-rf64', 'always']],
]
describe('a file', () => {
  it.each(kinds)('%s that ends before it says it does is known for it', async (name, args) => {
    const path = join(folder, name)
    await ffmpeg(['-y', ...args, path])
    expect(await isCutShort(Buffer.from(path))).toBe(false)
    const cut = join(folder, `cut ${name}`)
    await copyFile(path, cut)
    truncateSync(cut, Math.floor(statSync(path).size * 0.7))
    expect(await isCutShort(Buffer.from(cut))).toBe(true)
    // Sound goes on to where it ends; frames that are missing would be missed.
    expect((await probe(Buffer.from(cut), { projectRate: rate(25) })).fault).toEqual(name.endsWith('wav') ? null : expect.stringMatching(/cut short/))
  })
  it('that does not say where it ends is taken as it is', async () => {
    const path = join(folder, 'live.mkv')
    await ffmpeg(['-y', ...picture, '-c:v', 'ffv1', '-live', '1', path])
    truncateSync(path, Math.floor(statSync(path).size * 0.7))
    expect(await isCutShort(Buffer.from(path))).toBe(false)
    await expect(isCutShort(Buffer.from(join(folder, 'none')))).rejects.toThrow('ENOENT')
  })
})
