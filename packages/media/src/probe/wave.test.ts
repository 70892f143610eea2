/** Recorders' files as they come from a card. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { ffmpeg } from '../ffmpeg/run.ts'
import { pathText } from '../disk/paths.ts'
import { readWaveNotes } from './wave.ts'
import { walk } from './walk.ts'
import { addWaveChunk } from '../testing.ts'

const folder = mkdtempSync(join(tmpdir(), 'naranja waves '))
afterAll(() => rmSync(folder, { recursive: true }))
const make = async (name: string, { channels = 1, seconds = 1, reference = 48000, more = [] as string[] } = {}): Promise<string> => {
  const path = join(folder, name)
  const sources = Array.from({ length: channels }, (_, i) => `sin(${440 * (i + 1)}*2*PI*t)`).join('|')
  const bext = ['-write_bext', '1', '-metadata', `time_reference=${reference}`]
  await ffmpeg(['-y', '-f', 'lavfi', '-i', `aevalsrc='${sources}':s=48000:d=${seconds}`, '-c:a', 'pcm_s24le', ...bext, ...more, path])
  return path
}
const ixml = (family: string, index: number, tracks: string[]): string =>
  `<?xml version="1.0"?><BWFXML><SCENE>7</SCENE><TAKE>2</TAKE><TRACK_LIST>${tracks.map((t, i) => `<TRACK><INTERLEAVE_INDEX>${i + 1}</INTERLEAVE_INDEX><NAME>${t}</NAME></TRACK>`).join('')}</TRACK_LIST><FILE_SET><TOTAL_FILES>2</TOTAL_FILES><FAMILY_UID>${family}</FAMILY_UID><FILE_SET_INDEX>${index}</FILE_SET_INDEX></FILE_SET></BWFXML>`

describe('a wave file', () => {
  it('tells channels, length, time and notes, wherever its chunks stand', async () => {
    const path = await make('poly.wav', { channels: 3, seconds: 2, reference: 1_734_000_000 })
    addWaveChunk(path, 'iXML', ixml('F', 1, ['Boom', 'Ada', 'Ben']))
    const w = await readWaveNotes(Buffer.from(path))
    expect(w).toMatchObject({
      channels: 3,
      sampleRate: 48000,
      length: 96000,
      broadcast: { timeReference: 1_734_000_000 },
      notes: { scene: '7', take: '2', tracks: ['Boom', 'Ada', 'Ben'] },
    })
  })
  it('of the long kind (RF64) is read too', async () => {
    const path = await make('long.wav', { more: ['-rf64', 'always'] })
    expect(await readWaveNotes(Buffer.from(path))).toMatchObject({ channels: 1, length: 48000, broadcast: { timeReference: 48000 } })
  })
  it('that is none, or is cut off, says nothing and does no harm', async () => {
    writeFileSync(join(folder, 'no.wav'), 'RIFF')
    expect(await readWaveNotes(Buffer.from(join(folder, 'no.wav')))).toBeNull()
    writeFileSync(join(folder, 'no.wav'), 'a text that is longer than a heading')
    expect(await readWaveNotes(Buffer.from(join(folder, 'no.wav')))).toBeNull()
  })
})

describe('walking a recorder’s folder', () => {
  it('finds one clip for each recording, with its files in the order of their channels', async () => {
    for (const i of [2, 1]) await make(`set_${i}.wav`, { reference: 96000 })
    for (const i of [1, 2]) addWaveChunk(await make(`odd name ${3 - i}.wav`, { reference: 5 }), 'iXML', ixml('G', i, ['x']))
    await make('alone_1.wav', { reference: 1 })
    const { found } = await walk(Buffer.from(folder))
    expect(Object.fromEntries(found.map((f) => [pathText(f.path), f.channelFiles.map(pathText)]))).toEqual({
      'poly.wav': [],
      'long.wav': [],
      'no.wav': [],
      'alone_1.wav': [],
      'set_1.wav': ['set_1.wav', 'set_2.wav'],
      'odd name 2.wav': ['odd name 2.wav', 'odd name 1.wav'],
    })
  })
})
