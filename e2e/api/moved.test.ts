/** Files that stand somewhere else now are the same clips: met again by their content, or looked for where a person says. */
import { mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import type { ProjectRow, Volume } from '@naranja/contract'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, ref, type Running, startInstance, until } from '../support.ts'

const parent = emptyFolder('moved media')
const [drive, other, out] = ['Drive', 'Other', 'Out'].map((n) => join(parent, n)) as [string, string, string]
let app: Running
let project: ProjectRow
let cutId: string

const clips = async () => (await app.client.ask('clips', { projectId: project.id })).rows
const clip = async (id: string) => (await clips()).find((c) => c.id === id)
const copies = () => app.client.ask('copies', project.id)
const links = async () => (await app.client.ask('links', cutId)).map((l) => [l.state, l.away])
const volume = async (label: string) => (await app.client.ask('volumes', {})).find((v) => v.label === label) as Volume
const move = (from: string, to: string) => {
  mkdirSync(dirname(to), { recursive: true })
  renameSync(from, to)
}
const lookFor = async (label: string, path: string, more: object = {}) => {
  const started = await app.client.ask('lookFor', { projectId: project.id, places: [{ volumeId: (await volume(label)).id, ref: ref(path) }], ...more })
  return (await app.client.finish(started))[0]?.message
}
const sentences = async () => (await app.client.ask('changes', project.id)).map((c) => c.sentence)

beforeAll(async () => {
  for (const i of [1, 2, 3]) await makeClip(join(drive, `Day 1/A001/A001C00${i}.mov`), { code: i, frames: 30, timecode: `10:0${i}:00:00`, reel: 'A001' })
  for (const f of [other, out]) mkdirSync(f)
  app = await startInstance('moved', parent)
  ;({ project } = await projectOn(app.client, drive))
  const made = { volumeId: (await volume('Out')).id, folder: 'Light', specs: ['h264-proxy-720'] }
  await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, ...made }))
  const line = (i: number) => `00${i}  A001     V     C        10:0${i}:00:05 10:0${i}:00:15 01:00:0${i}:00 01:00:0${i}:10\n* FROM CLIP NAME: A001C00${i}.mov\n`
  const { cut } = await importText(app.client, project.id, `TITLE: one\nFCM: NON-DROP FRAME\n\n${line(1)}${line(2)}${line(3)}`)
  cutId = cut.id
  const edits = (await clips()).map((c) => ({ clipId: c.id, field: 'notes', before: null, value: `seen ${c.name}` }))
  await app.client.askAnything('describe', { projectId: project.id, edits })
})
afterAll(() => app?.stop())

describe('a file that was renamed and moved', () => {
  it('is the same clip when its folder is taken in again: with its description, copies and events', async () => {
    const before = await clips()
    move(join(drive, 'Day 1/A001/A001C001.mov'), join(drive, 'Sorted/Wide shot.mov'))
    const folders = [{ volumeId: (await volume('Drive')).id, ref: '' }]
    const [task] = await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders }))
    expect(task?.message).toContain('1 found again in another place or under another name, 2 already here'.split(', ')[0])
    const after = await clips()
    expect(after.map((c) => c.id).sort()).toEqual(before.map((c) => c.id).sort())
    const moved = after.find((c) => c.name === 'Wide shot.mov')
    expect(moved).toMatchObject({ notes: 'seen A001C001.mov', roll: 'A001', reel: 'A001', file: join(drive, 'Sorted/Wide shot.mov'), gone: false, away: false })
    expect(moved?.copies.map((c) => c.state)).toEqual(['checked'])
    // The list still calls it by its earlier name.
    expect(await links()).toEqual([1, 2, 3].map(() => ['certain', false]))
  })
  it('but a second file of the same content beside it is none of it', async () => {
    writeFileSync(join(drive, 'Sorted/Twin.mov'), readFileSync(join(drive, 'Sorted/Wide shot.mov')))
    const folders = [{ volumeId: (await volume('Drive')).id, ref: '' }]
    const [task] = await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders }))
    expect(task?.message).toContain('1 taken in')
    const twin = (await clips()).find((c) => c.name === 'Twin.mov')
    await app.client.askAnything('removeClips', { projectId: project.id, clipIds: [twin?.id] })
  })
})

describe('what is away or gone', () => {
  it('is found again below a folder that a person names, by content, under whatever name; and taken back', async () => {
    const [, , second, third] = ['', '', ...(await clips()).filter((c) => c.name.startsWith('A001')).map((c) => c.id)]
    move(join(drive, 'Day 1/A001/A001C002.mov'), join(other, 'Archive/A001/A001C002.mov'))
    move(join(drive, 'Day 1/A001/A001C003.mov'), join(other, 'Archive/Renamed.mov'))
    await until('both gone', async () => (await clips()).filter((c) => c.gone).length === 2)
    expect((await links()).filter(([, away]) => away)).toHaveLength(2)
    await expect(app.client.ask('lookFor', { projectId: project.id, places: [{ volumeId: (await volume('Other')).id, ref: ref('../x') }] })).rejects.toThrow(
      /leads out/,
    )
    expect(await lookFor('Out', '')).toMatch(/^Nothing that was looked for is in .*Out: \d+ files compared by content\.$/)
    expect(await lookFor('Other', 'Archive', { clipIds: [second] })).toBe(`1 clip found in ${join(other, 'Archive')}.`)
    expect(await lookFor('Other', 'Archive')).toBe(`1 clip found in ${join(other, 'Archive')}.`)
    expect((await clip(third ?? ''))?.name).toBe('Renamed.mov')
    expect((await clips()).filter((c) => c.gone || c.away)).toEqual([])
    expect(await links()).toEqual([1, 2, 3].map(() => ['certain', false]))
    expect((await sentences())[0]).toBe('Found again where they stand now: 1 clip.')
    await app.client.ask('undo', { projectId: project.id })
    await until('gone again', async () => (await clip(third ?? ''))?.gone)
    expect((await clip(third ?? ''))?.name).toBe('A001C003.mov')
    // The file itself can be pointed at as well.
    expect(await lookFor('Other', 'Archive/Renamed.mov', { clipIds: [third] })).toBe(`1 clip found in ${join(other, 'Archive/Renamed.mov')}.`)
    await expect(lookFor('Other', '')).rejects.toThrow(/Nothing is away or gone/)
  })
  it('are edit copies too', async () => {
    const paths = (await copies()).map((c) => c.path)
    for (const [i, p] of paths.entries()) move(p, join(other, 'Light', i === 0 ? 'renamed.mov' : basename(p)))
    await until('all gone', async () => (await copies()).every((c) => c.state === 'gone'))
    expect(await lookFor('Other', 'Light')).toBe(`3 edit copies found in ${join(other, 'Light')}.`)
    expect((await copies()).map((c) => [c.state, dirname(c.path)])).toEqual(paths.map(() => ['checked', join(other, 'Light')]))
  })
  it('is left where another file stands that only is called so', async () => {
    const [one] = await clips()
    const path = one?.file ?? ''
    move(path, `${path}.aside`)
    writeFileSync(join(other, basename(path)), 'not it')
    await until('gone', async () => (await clip(one?.id ?? ''))?.gone)
    expect(await lookFor('Other', basename(path), { clipIds: [one?.id] })).toMatch(/^Nothing that was looked for is in/)
    renameSync(`${path}.aside`, path)
    await until('back', async () => (await clip(one?.id ?? ''))?.gone === false)
  })
})
