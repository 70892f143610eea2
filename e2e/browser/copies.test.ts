/** Edit copies in a browser: tried, compared, paired, looked after, renamed, logged and handed over; by keys where a person would. */
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs'
import { dirname, join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'
import { choosePlace, codeOf, focusOn, openBrowser, seriousFindings } from './support.ts'

const parent = emptyFolder('copies browser')
const [drive, out] = [join(parent, 'Drive'), join(parent, 'Out')]
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow
const findings: string[] = []
const look = async (name: string) => {
  findings.push(...(await seriousFindings(page)).map((f) => `${name}: ${f}`))
}
const open = (part: string) => page.goto(`${app.instance.address}/p/${project.id}/${part}`)
const copies = () => app.client.ask('copies', project.id)
/** Ticks a folder in the browser of volumes. */
const tickFolder = async (volume: string, folder: string) => {
  await page.getByRole('list', { name: 'Volumes' }).getByRole('button', { name: volume }).click()
  await page.getByRole('list', { name: 'Contents' }).getByRole('checkbox', { name: folder }).check()
}

beforeAll(async () => {
  for (const i of [1, 2])
    await makeClip(join(drive, `A001/A001C00${i}.mov`), { code: i, frames: 60, timecode: `10:0${i}:00:00`, reel: 'A001', size: { width: 640, height: 360 } })
  mkdirSync(join(drive, 'In'))
  mkdirSync(join(drive, 'Delivery'))
  mkdirSync(out)
  // One that is right but is called otherwise, and one that is another clip under the name of this.
  await ffmpeg(['-y', '-i', join(drive, 'A001/A001C001.mov'), '-c', 'copy', '-timecode', '10:01:00:00', join(drive, 'Delivery/for_cut_A001C001.mov')])
  const bare = ['-map', '0:v', '-map_metadata', '-1', '-map_metadata:s', '-1', '-write_tmcd', '0', '-c', 'copy']
  await ffmpeg(['-y', '-i', join(drive, 'A001/A001C001.mov'), '-frames:v', '40', ...bare, join(drive, 'Delivery/A001C002.mov')])
  app = await startInstance('copies-browser', parent)
  ;({ project } = await projectOn(app.client, join(drive, 'A001')))
  const target = await app.client.ask('openVolume', { path: out })
  await app.client.finish(await app.client.ask('makeCopies', { projectId: project.id, specs: ['prores-proxy-1080'], volumeId: target.id, folder: 'P' }))
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

describe('an original and its copy', () => {
  it('stand side by side at the same frame, and step together by keys', async () => {
    await open('copies/compare')
    const pictures = page.getByRole('group', { name: 'Pictures; arrows step frame by frame' })
    const shown = (name: RegExp) => pictures.getByRole('img', { name })
    const frames = async () => [await codeOf(shown(/^Original, frame/)), await codeOf(shown(/^ProRes proxy 1080, frame/))]
    const at = (frame: number) => [1, 1].map((clip) => ({ clip, frame }))
    await until('both at frame 30', async () => JSON.stringify(await frames().catch(() => null)) === JSON.stringify(at(30)))
    await pictures.focus()
    await page.keyboard.press('ArrowRight')
    await page.keyboard.press('Shift+ArrowRight')
    await until('both at frame 41', async () => JSON.stringify(await frames().catch(() => null)) === JSON.stringify(at(41)))
    await page.getByRole('region', { name: 'Scopes of the original' }).getByRole('img', { name: 'Waveform' }).waitFor()
    await page.getByRole('region', { name: 'Scopes of ProRes proxy 1080' }).getByRole('img', { name: 'Waveform' }).waitFor()
    await look('side by side')
  })
  it('are wiped one over the other, and seen pixel by pixel', async () => {
    await page.getByRole('radio', { name: 'Wipe' }).click()
    const line = page.getByRole('slider', { name: 'Line between original and copy' })
    await line.focus()
    await page.keyboard.press('Home')
    const original = page.getByRole('img', { name: /^Original, frame/ })
    await until('the line at the left', async () => (await original.evaluate((e) => (e as HTMLElement).style.clipPath)) === 'inset(0px 100% 0px 0px)')
    await look('wipe')
    await page.getByRole('radio', { name: '1:1' }).click()
    await page.getByRole('img', { name: /^Original, frame 41, pixel by pixel/ }).waitFor()
    await page.getByRole('img', { name: /^ProRes proxy 1080, frame 41, pixel by pixel/ }).waitFor()
    const part = page.getByRole('slider', { name: 'Part of the picture; arrows move it' })
    const before = await part.getAttribute('aria-valuetext')
    await part.focus()
    await page.keyboard.press('ArrowLeft')
    await until('another part', async () => (await part.getAttribute('aria-valuetext')) !== before)
    await look('1:1')
  })
})

describe('copies made elsewhere', () => {
  it('are pointed at, and refused or left open with what there is to see; one that is told leads to the others', async () => {
    await open('copies/elsewhere')
    await tickFolder('Drive', 'Delivery')
    await look('pointing')
    await page.getByRole('button', { name: 'Pair copies' }).click()
    await page.getByRole('table', { name: 'Copies found' }).getByText('refused').waitFor()
    const wrong = page.getByRole('complementary', { name: 'A001C002.mov' })
    await wrong.getByText('It has 40 frames, the original 60.').waitFor()
    await wrong.getByRole('img', { name: 'This copy, frame 0' }).waitFor()
    await look('pairs')
    await page.getByRole('table', { name: 'Copies found' }).getByText('for_cut_A001C001.mov').click()
    const line = page.getByRole('complementary', { name: 'for_cut_A001C001.mov' })
    await line.getByLabel('It is a copy of').selectOption({ label: 'A001C001.mov · A001' })
    await line.getByRole('button', { name: 'Pair it, and those like it' }).click()
    await until('it is paired', async () => (await copies()).some((c) => c.specName === 'Made elsewhere' && c.clip === 'A001C001.mov'))
    await page.getByRole('radio', { name: 'Paired' }).click()
    await page.getByRole('table', { name: 'Copies found' }).getByText('for_cut_A001C001.mov').waitFor()
  })
})

describe('a folder that is looked after', () => {
  it('is chosen, takes what arrives, and is switched off', async () => {
    await open('copies/arrivals')
    await tickFolder('Drive', 'In')
    await page.getByLabel('Edit copies of what arrives').selectOption({ label: 'H.264 proxy 720' })
    await choosePlace(page, 'Edit copies go to', 'Out')
    await look('a folder to look after')
    await page.getByRole('button', { name: 'Look after it', exact: true }).click()
    const quiet = page.getByRole('spinbutton')
    await quiet.fill('1')
    await quiet.blur()
    copyFileSync(join(drive, 'A001/A001C002.mov'), join(drive, 'In/B001C001.mov'))
    await page.getByRole('table', { name: 'What happened' }).getByText('Taken in.').waitFor()
    await until('it is copied', async () => (await copies()).some((c) => c.clip === 'B001C001.mov' && c.state === 'checked'))
    await look('arrivals')
    await page.getByRole('checkbox', { name: 'Look after it' }).click()
    await page.getByText('switched off').waitFor()
    // Taken back by key while the box has the focus, and done again.
    await page.keyboard.press('Control+z')
    await page.getByText('nothing is arriving').waitFor()
    await page.getByRole('checkbox', { name: 'Look after it' }).click()
    await page.getByText('switched off').waitFor()
    // Somebody else sets how long files must settle while this is seen as it was.
    const list = () => app.client.ask('arrivalFolders', project.id)
    const old = await list()
    await page.route('**/arrival-folders', (route) => route.fulfill({ json: old }))
    await app.stranger.ask('changeArrivals', { folderId: old[0]?.id, version: old[0]?.version, quiet: 7 })
    await page.getByRole('checkbox', { name: 'Look after it' }).click()
    await page.getByText(/Somebody changed meanwhile how .*In is looked after\. Nothing was changed\./).waitFor()
    await page.unroute('**/arrival-folders')
    await page.getByRole('button', { name: 'Put mine in its place' }).click()
    await until('both stand', async () => (await list()).every((f) => f.on && f.quiet === 7))
    await page.getByRole('checkbox', { name: 'Look after it', checked: true }).waitFor()
    await page.getByRole('button', { name: 'Forget this folder' }).click()
    await page.getByRole('heading', { name: 'What arrives is taken in by itself' }).waitFor()
    await page.keyboard.press('Control+z')
    await page.getByRole('table', { name: 'What happened' }).getByText('Taken in.').waitFor()
  })
})

describe('a trial', () => {
  it('shows the same part of each, and how many play at once', async () => {
    await open('copies/trial')
    await page.getByRole('button', { name: 'ProRes proxy 1080' }).first().waitFor()
    await look('no trial yet')
    await page.getByRole('button', { name: 'Try them' }).click()
    await page.getByRole('img', { name: 'ProRes proxy 1080, pixel by pixel' }).waitFor({ timeout: 90_000 })
    await page.getByRole('img', { name: 'Original, pixel by pixel' }).waitFor()
    await page.getByRole('img', { name: 'Streams that play at once, against the height of the picture' }).waitFor()
    await look('trial')
  }, 120_000)
})

describe('a batch', () => {
  it('begun with clips ticked begins with these, and with all where none is', async () => {
    const [one] = (await app.client.ask('clips', { projectId: project.id })).rows
    const tick = (ticked: boolean) => app.client.ask('tick', { projectId: project.id, ticked, clipIds: [one?.id] })
    await open('copies')
    const of = page.getByRole('combobox', { name: 'Clips', exact: true })
    await page.getByRole('button', { name: /^(Make \d+ edit cop|No copy left to make)/ }).waitFor()
    expect(await of.count()).toBe(0)
    await tick(true)
    await until('the ticked clip is what it begins with', async () => (await of.count()) === 1 && (await of.inputValue()) === 'ticked')
    // What a person chooses stays.
    await of.selectOption('')
    expect(await of.inputValue()).toBe('')
    await tick(false)
    await of.waitFor({ state: 'detached' })
  })
})

describe('names and logs', () => {
  it('of copies are seen before they are given, and taken back', async () => {
    await open('copies')
    await page.getByRole('button', { name: 'Rename …' }).click()
    const dialog = page.getByRole('dialog', { name: 'Rename edit copies' })
    await dialog.getByLabel('Spec of the copies').selectOption({ label: 'ProRes proxy 1080' })
    await dialog.getByRole('button', { name: 'Text' }).click()
    await dialog.getByLabel('Text 2').fill('_light')
    await dialog.getByText('A001C001_light.mov').waitFor()
    await look('renaming')
    await dialog.getByRole('button', { name: 'Rename 2 copies' }).click()
    await page.getByText('2 edit copies renamed.').waitFor()
    expect(readdirSync(join(out, 'P/A001')).sort()).toEqual(['A001C001_light.mov', 'A001C002_light.mov'])
    await page.getByRole('button', { name: 'Undo' }).click()
    await until('the old names', async () => existsSync(join(out, 'P/A001/A001C001.mov')))
  })
  it('of clips are laid out, kept under a name, and written', async () => {
    await open('originals')
    await page.getByRole('button', { name: 'Clip log' }).click()
    const dialog = page.getByRole('dialog', { name: 'Clip log' })
    await dialog.getByLabel('Its name').fill('For the edit')
    await dialog.getByRole('button', { name: 'Heading line' }).click()
    await dialog.getByLabel('Heading line 1', { exact: true }).fill('Production')
    await dialog.getByRole('button', { name: 'Leave out column 10' }).click()
    await dialog.getByRole('radio', { name: 'Semicolon' }).click()
    await dialog.getByRole('region', { name: 'The log as it will be' }).getByText('Production;Test').waitFor()
    await look('clip log')
    await dialog.getByRole('button', { name: 'Keep this layout' }).click()
    await page.getByText('The layout is kept as For the edit.').waitFor()
    await choosePlace(dialog, 'Folder', 'Out')
    await dialog.getByRole('button', { name: 'Write log' }).click()
    await until('the log', async () => existsSync(join(out, 'Logs/For the edit.csv')))
    expect(readFileSync(join(out, 'Logs/For the edit.csv'), 'utf8').split('\r\n')[1]).toBe('Name;Reel;Start;End;Frames;Rate;Scene;Take;Camera')
  })
})

describe('originals that are away', () => {
  const hidden = join(parent, 'A001 elsewhere')
  const edl = [1, 2]
    .map((i) => `00${i}  A001  V  C  10:0${i}:00:10 10:0${i}:01:10 01:00:0${i - 1}:00 01:00:0${i}:00\n* FROM CLIP NAME: A001C00${i}.mov\n`)
    .join('')

  it('leave copies with a log beside them; what is finished from these is a decision, by clip, by cut or for the project', async () => {
    const cut = (await importText(app.client, project.id, edl)).cut
    await open('copies')
    await page.getByLabel('Spec', { exact: true }).selectOption({ label: 'DNxHR SQ intermediate' })
    await choosePlace(page, 'Copies go to', 'Out')
    await page.getByLabel('Clip log in each folder').selectOption('For the edit')
    await page.getByRole('button', { name: /^Make \d edit copies/ }).click()
    const made = async () => (await copies()).filter((c) => c.spec === 'dnxhr-sq')
    await until('the copies', async () => (await made()).length >= 2 && (await made()).every((c) => c.state === 'checked'))
    const [one] = await made()
    await until('their log', async () => readdirSync(dirname(one?.path ?? '')).some((f) => / For the edit /.test(f)))

    renameSync(join(drive, 'A001'), hidden)
    await page.getByRole('table', { name: 'State of every clip' }).getByText('copy only').first().waitFor()
    await look('copy only')
    await open(`conform/${cut.id}`)
    const finish = page.getByRole('button', { name: 'Finish 2 clips from their intermediates' })
    await finish.waitFor()
    await look('could be finished')
    await focusOn(finish)
    await page.keyboard.press('Enter')
    await page.getByText('2 events from intermediates, as decided').waitFor()
    await look('finished from intermediates')
    await open('masters')
    await page.getByText('Every event has a source that is here. The master can be rendered.').waitFor()
    await page.getByText(/^2 events come from intermediates, as decided, not from their originals: /).waitFor()
    await look('a master from intermediates')

    await open('originals')
    await page.getByText('A001C002.mov').first().click()
    const from = page.getByRole('combobox', { name: 'Finished from' })
    await until('what it is finished from', async () => (await from.locator('option:checked').textContent()) === 'DNxHR SQ intermediate')
    await look('finished from')
    await from.selectOption({ label: 'its original' })
    await page.getByText('A001C002.mov: finished from its original again.').waitFor()
    await page.getByRole('button', { name: 'Undo' }).click()
    await until('it is taken back', async () => (await from.locator('option:checked').textContent()) === 'DNxHR SQ intermediate')

    await open('settings')
    const rule = page.getByRole('checkbox', { name: /^Finish from checked intermediates/ })
    await focusOn(rule)
    await page.keyboard.press('Space')
    await until('the rule', async () => (await app.client.ask('finishingRule', project.id)).missing)
    await until('the page to say so', () => rule.isChecked())
    await look('settings')
    renameSync(hidden, join(drive, 'A001'))
  })
})

describe('a hand-over', () => {
  it('says what it takes and where it goes, and is made', async () => {
    await open('space')
    const card = page.locator('div', { hasText: /^ProRes proxy 1080/ }).last()
    await card.waitFor()
    await page.getByRole('button', { name: 'Hand over …' }).first().click()
    const dialog = page.getByRole('dialog', { name: /^Hand over/ })
    await choosePlace(dialog, 'Folder', 'Out')
    await dialog
      .getByText(/Hand-over .*/)
      .last()
      .waitFor()
    await look('hand-over')
    await dialog.getByRole('button', { name: /^Hand over \d/ }).click()
    await until('the table of contents', async () => readdirSync(out, { recursive: true }).some((f) => String(f).endsWith('Contents.csv')))
  })
  it('has nothing that keeps anybody out, and no error was told to the browser', () => {
    expect(findings).toEqual([])
    // One change was refused on purpose.
    expect(errors.filter((e) => !e.includes('409'))).toEqual([])
  })
})
