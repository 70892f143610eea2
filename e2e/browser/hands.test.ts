/** How many things hands do for the common jobs: clicks, keys, fields that are typed into. The counts stand in docs/testing.md. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { CutImported, ProjectRow } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import type { Browser, Page } from 'playwright'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, ref, type Running, startInstance, until } from '../support.ts'
import { Hands, openBrowser } from './support.ts'

const root = emptyFolder('hands')
const [media, drawer] = [join(root, 'volumes'), join(root, 'drawer')]
const drive = join(media, 'Drive')
const rolls = ['A001', 'A002', 'A003', 'A004']
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let hands: Hands

const clipName = (roll: string, n: number) => `${roll}C00${n}_FERRY.mov`
/** Two events of each roll; `reel`: what the list calls its reel, and `named` whether it names the clips too. */
const edl = (reel: (roll: string) => string, named: boolean): string =>
  [
    'TITLE: HANDS\nFCM: NON-DROP FRAME',
    ...rolls.flatMap((roll, r) =>
      [1, 2].map((n, i) => {
        const at = r * 2 + i
        const source = (f: number) => `1${r}:0${n}:00:${String(f).padStart(2, '0')}`
        const event = `${String(at + 1).padStart(3, '0')}  ${reel(roll).padEnd(8)} V     C        ${source(2)} ${source(12)} 01:00:00:${String(at * 10 + 100 - 100).padStart(2, '0')} x`
        const tc = (f: number) => `01:00:0${Math.floor(f / 25)}:${String(f % 25).padStart(2, '0')}`
        return `${event.slice(0, event.indexOf('01:00:00'))}${tc(at * 10)} ${tc(at * 10 + 10)}${named ? `\n* FROM CLIP NAME: ${clipName(roll, n)}` : ''}`
      }),
    ),
    '',
  ].join('\n')

const step = (name: string) => page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name })
const place = (group: string, name: string) => page.getByRole('group', { name: group }).getByRole('button', { name: new RegExp(`^${name}`) })
const shelf = (group: string) => place(group, 'Shelf')
/** A project with the drive's first day in it, opened at its originals. */
const prepared = async (name: string): Promise<ProjectRow> => {
  const project = await app.client.ask('createProject', { name, rate: '25', width: 640, height: 360 })
  const [volume] = (await app.client.ask('volumes', {})).filter((v) => v.label === 'Drive')
  const folders = [{ volumeId: volume?.id, ref: ref('Day 1') }]
  await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders }))
  await page.goto(`${app.instance.address}/p/${project.id}/originals`)
  await page.getByRole('row', { name: /A004C002/ }).waitFor()
  hands = await Hands.on(page)
  return project
}
const copies = (p: ProjectRow) => app.client.ask('copies', p.id)
const clips = async (p: ProjectRow) => (await app.client.ask('clips', { projectId: p.id })).rows

beforeAll(async () => {
  for (const [r, roll] of rolls.entries())
    for (const n of [1, 2]) {
      const path = join(drive, 'Day 1', roll, clipName(roll, n))
      await makeClip(path, { code: r * 2 + n, frames: 25, timecode: `1${r}:0${n}:00:00`, reel: roll })
      mkdirSync(join(drive, 'Delivered'), { recursive: true })
      await ffmpeg([
        '-y',
        '-i',
        path,
        '-vf',
        'scale=160:90',
        '-c:v',
        'libx264',
        '-preset',
        'ultrafast',
        '-pix_fmt',
        'yuv420p',
        '-map_metadata',
        '0',
        join(drive, 'Delivered', clipName(roll, n)),
      ])
    }
  mkdirSync(join(drive, 'Inbox'))
  await makeClip(join(drive, 'Inbox', 'N001C001.mov'), { code: 20, frames: 12, timecode: '20:00:00:00' })
  mkdirSync(join(media, 'Shelf'))
  for (const n of [1, 2]) await makeClip(join(drawer, 'Card B001', 'B001', `B001C00${n}.mov`), { code: 30 + n, frames: 12, timecode: `2${n}:00:00:00` })
  app = await startInstance('hands', media, { drawer, slots: media })
  ;({ browser, page, errors } = await openBrowser(app))
}, 120_000)
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})
afterEach(() => {
  expect(errors).toEqual([])
})

describe('hands need', () => {
  it('5 from the first page to copies of one folder', async () => {
    await page.goto(app.instance.address)
    hands = await Hands.on(page)
    await hands.click(page.getByRole('button', { name: 'Start project' }))
    await hands.click(page.getByRole('list', { name: 'Volumes' }).getByRole('button', { name: /^Drive/ }))
    await hands.click(page.getByRole('checkbox', { name: 'Day 1', exact: true }))
    await hands.click(shelf('Then make edit copies in'))
    await hands.click(page.getByRole('dialog').getByRole('button', { name: 'Add originals' }))
    const [project] = await app.client.ask('projects')
    const p = await app.client.ask('project', project?.id)
    await until('eight checked copies', async () => (await copies(p)).filter((c) => c.state === 'checked').length === 8)
    // It is called after what came into it.
    expect((await app.client.ask('project', p.id)).name).toBe('Day 1')
    expect(await hands.all()).toBe(5)
  })
  it('2 for a card by a kept intake, verified and copied', async () => {
    const project = await prepared('Card')
    const [target] = (await app.client.ask('volumes', {})).filter((v) => v.label === 'Shelf')
    const at = { volumeId: target?.id, folder: 'Cards' }
    await app.client.ask('keepIntakes', {
      projectId: project.id,
      kept: [{ name: 'Night', backupTo: [at], copies: { ...at, folder: 'Light', specs: ['h264-proxy-720'] } }],
      version: 0,
    })
    await app.client.ask('card', { name: 'Card B001', action: 'put-in' })
    await hands.click(page.getByRole('button', { name: 'Take in by Night' }))
    await until('two checked copies', async () => (await copies(project)).filter((c) => c.state === 'checked').length === 2)
    expect((await app.client.ask('backups', project.id)).map((b) => b.state)).toEqual(['complete'])
    expect(await hands.all()).toBe(1)
    await app.client.ask('card', { name: 'Card B001', action: 'take-out' })
  })
  it('4 for copies that were made elsewhere', async () => {
    const project = await prepared('Elsewhere')
    await hands.click(step('Edit copies'))
    await hands.click(page.getByRole('radio', { name: 'Made elsewhere' }))
    // The picker begins where the project's originals stand.
    await hands.click(page.getByRole('checkbox', { name: 'Delivered', exact: true }))
    await hands.click(page.getByRole('button', { name: 'Pair copies' }))
    await until('eight pairs', async () => (await copies(project)).filter((c) => c.spec.startsWith('elsewhere')).length === 8)
    expect(await hands.all()).toBe(4)
  })
  it('7 from a cut that lands by itself to its checked master', async () => {
    const project = await prepared('Master')
    await hands.click(step('Cut lists'))
    await hands.click(page.getByRole('button', { name: 'Import cut list' }).first())
    await hands.pick(page.getByRole('button', { name: /From this computer/ }), {
      name: 'hands.edl',
      mimeType: 'text/plain',
      buffer: Buffer.from(edl((r) => r, true)),
    })
    await hands.click(page.getByRole('dialog').getByRole('button', { name: 'Import cut list' }))
    await hands.click(step('Masters'))
    await hands.click(shelf('Folder'))
    await hands.click(page.getByRole('button', { name: 'Render master' }))
    await until('a checked master', async () => (await app.client.ask('masters', project.id)).some((m) => m.state === 'verified'))
    expect(await hands.all()).toBe(7)
  })
  it('4 to save a list that points at originals, and again at proxies', async () => {
    const project = await prepared('List')
    await importText(
      app.client,
      project.id,
      edl((r) => r, true),
    )
    await page.goto(`${app.instance.address}/p/${project.id}/cuts`)
    await page.getByRole('button', { name: 'Save list' }).waitFor()
    hands = await Hands.on(page)
    await hands.click(page.getByRole('button', { name: 'Save list' }))
    const saved = async () => {
      const [download] = await Promise.all([page.waitForEvent('download'), hands.click(page.getByRole('link', { name: /^Save .*\.edl/ }))])
      return download.suggestedFilename()
    }
    expect(await saved()).toMatch(/\.edl$/)
    await hands.click(page.getByRole('radio', { name: /proxies/i }).last())
    expect(await saved()).toMatch(/\.edl$/)
    expect(await hands.all()).toBe(4)
  })
  it('3 to mend four reels that the list calls otherwise', async () => {
    const project = await prepared('Reels')
    const { cut } = await importText(
      app.client,
      project.id,
      edl((r) => `X${r.slice(1)}`, false),
    )
    await hands.click(step('Reconnect'))
    await hands.click(page.getByRole('button', { name: /^Repair/ }))
    await hands.click(page.getByRole('button', { name: 'Repair 4 reels' }))
    const links = () => app.client.ask('links', (cut as CutImported['cut']).id)
    await until('all of them', async () => (await links()).every((l) => l.state === 'certain' || l.state === 'likely'))
    expect(await hands.all()).toBe(3)
  })
  it('8 to make a spec of their own with burnt-in timecode, and use it', async () => {
    const project = await prepared('Spec')
    await hands.click(step('Specs'))
    await hands.click(page.getByRole('button', { name: 'New spec' }))
    await hands.type(page.getByLabel('Name', { exact: true }), 'Ferry with timecode')
    await hands.click(page.getByRole('button', { name: 'source timecode' }))
    await hands.click(page.getByRole('button', { name: /^Save as version/ }))
    await hands.click(step('Edit copies'))
    await hands.click(shelf('Copies go to'))
    await hands.click(page.getByRole('button', { name: 'Make 8 edit copies' }))
    await until(
      'eight checked copies',
      async () => (await copies(project)).filter((c) => c.state === 'checked' && c.specName === 'Ferry with timecode').length === 8,
    )
    expect(await hands.all()).toBe(8)
  })
  it('5 to have a folder looked after', async () => {
    const project = await prepared('Arrivals')
    await hands.click(step('Edit copies'))
    await hands.click(page.getByRole('radio', { name: 'Arrivals' }))
    await hands.click(page.getByRole('checkbox', { name: 'Inbox', exact: true }))
    await hands.click(shelf('Edit copies go to'))
    await hands.click(page.getByRole('button', { name: 'Look after it' }))
    await until('the arrival', async () => (await clips(project)).some((c) => c.name === 'N001C001.mov'))
    expect((await app.client.ask('arrivalFolders', project.id)).map((f) => f.folder)).toEqual([join(drive, 'Inbox')])
    expect(await hands.all()).toBe(5)
  })
  it('4 for a hand-over', async () => {
    const project = await prepared('Hand-over')
    const [target] = (await app.client.ask('volumes', {})).filter((v) => v.label === 'Shelf')
    await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, specs: ['h264-proxy-720'], volumeId: target?.id, folder: 'H' }))
    await hands.click(step('Space'))
    await hands.click(page.getByRole('button', { name: 'Hand over …' }).first())
    await hands.click(page.getByRole('group', { name: 'Folder' }).getByTitle('Shelf/Hand-overs'))
    await hands.click(page.getByRole('button', { name: /^Hand over 8/ }))
    await until('it is carried', async () =>
      (await app.client.ask('queue', { projectId: project.id })).tasks.some((t) => t.kind === 'carry' && t.state === 'done'),
    )
    expect(await hands.all()).toBe(4)
  })
})
