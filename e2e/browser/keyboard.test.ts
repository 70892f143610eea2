/** The whole job by keyboard alone: no mouse, from the first screen to the checked master. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Browser, Locator, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, readCodes, type Running, startInstance } from '../support.ts'
import { codeOf, openBrowser, tabOn } from './support.ts'

const parent = emptyFolder('keyboard media')
const drive = join(parent, 'Quay drive')
let app: Running
let browser: Browser
let page: Page
let errors: string[]

const list = `TITLE: KEYS
001  A001     V     C        10:00:00:05 10:00:01:05 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001_SF.mov
002  AX       V     C        00:00:00:03 00:00:00:23 01:00:01:00 01:00:01:20
* FROM CLIP NAME: CLIP0001.mov
003  A001     V     C        10:01:00:02 10:01:00:22 01:00:01:20 01:00:02:15
* FROM CLIP NAME: A001C002_SF.mov
`

beforeAll(async () => {
  await makeClip(join(parent, 'Card A', 'A001', 'A001C001_SF.mov'), { code: 1, frames: 60, timecode: '10:00:00:00', reel: 'A001' })
  await makeClip(join(parent, 'Card A', 'A001', 'A001C002_SF.mov'), { code: 2, frames: 40, timecode: '10:01:00:00', reel: 'A001' })
  await makeClip(join(parent, 'Card A', 'one', 'CLIP0001.mov'), { code: 3, frames: 40 })
  await makeClip(join(parent, 'Card A', 'two', 'CLIP0001.mov'), { code: 4, frames: 40 })
  mkdirSync(join(drive, 'Cut'), { recursive: true })
  writeFileSync(join(drive, 'Cut', 'keys.edl'), list)
  app = await startInstance('keyboard', parent)
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const press = (...keys: string[]) => keys.reduce((before, k) => before.then(() => page.keyboard.press(k)), Promise.resolve())
const tabTo = (target: Locator) => tabOn(page, target)
const button = (name: string | RegExp) => page.getByRole('button', { name }).first()

describe('without a mouse', () => {
  it('a project begins and its originals are taken in', async () => {
    await page.goto(app.instance.address)
    await tabTo(page.getByLabel('Name'))
    await page.keyboard.type('Keys')
    await tabTo(page.getByLabel('Frame rate'))
    await page.keyboard.type('25')
    await press('Enter')
    const dialog = page.getByRole('dialog', { name: 'Add originals' })
    await tabTo(dialog.getByLabel('All of Card A'))
    await press('Space')
    await tabTo(dialog.getByRole('button', { name: 'Add originals' }))
    await press('Enter')
    await page.getByText(/4 clips on 3 rolls/).waitFor()
  })

  it('a clip is looked at, frame by frame', async () => {
    await tabTo(page.getByLabel('Originals, arrow keys choose'))
    await press('Home', 'ArrowDown')
    await page.getByRole('complementary', { name: 'Clip A001C002_SF.mov' }).waitFor()
    const picture = page.getByRole('region', { name: /A001C002.*picture/ })
    await tabTo(picture)
    await press('Home', 'ArrowRight', 'ArrowRight', 'ArrowRight')
    await picture.getByText('frame 3 of 40').waitFor()
    await page.waitForFunction(() => {
      const i = document.querySelector<HTMLImageElement>('[data-testid=still]')
      return i?.src.includes('frame=3&') && i.complete && i.naturalWidth > 0
    })
    expect(await codeOf(picture.getByTestId('still'))).toEqual({ clip: 2, frame: 3 })
  })

  it('edit copies are made and viewed', async () => {
    await press('Alt+2')
    await tabTo(page.getByRole('group', { name: 'Copies go to' }).getByRole('button').first())
    await press('Enter')
    await tabTo(button('Make 4 edit copies'))
    await press('Enter')
    await page.getByText('all 4 clips have one').waitFor()
    // What there is to view is told with the sums of the project.
    await page.getByRole('navigation', { name: 'Steps' }).getByText('4/4').waitFor()
    await press('v')
    await page.getByRole('radio', { name: 'proxies', checked: true }).waitFor()
  })

  it('the cut comes in', async () => {
    await press('Alt+3')
    await tabTo(button('Import cut list'))
    await press('Enter')
    const dialog = page.getByRole('dialog', { name: 'Import cut list' })
    await tabTo(dialog.getByRole('button', { name: /Quay drive/ }))
    await press('Enter')
    await tabTo(dialog.getByRole('button', { name: 'Cut', exact: true }))
    await press('Enter')
    await tabTo(dialog.getByLabel('keys.edl'))
    await press('Space')
    await tabTo(dialog.getByRole('button', { name: 'Import cut list' }))
    await press('Enter')
    await page.getByText('3 events, 00:00:02:15 at 25 fps').waitFor()
    await tabTo(page.getByLabel('Events, arrow keys choose'))
    await press('ArrowDown', 'ArrowDown')
    await page.getByText('Event 002 on V1').waitFor()
  })

  it('what is open is decided', async () => {
    await press('Alt+4')
    await page.getByText('1 several').waitFor()
    await press('n')
    await page.getByText('Event 002 on V1: several').waitFor()
    const second = page.getByRole('list', { name: 'Candidates' }).getByRole('listitem').nth(1)
    await second.waitFor()
    await press('2', 'Enter')
    await page.getByText(/Set event 002 to Card A\/two\/CLIP0001.mov/).waitFor()
    await press('Control+z')
    await page.getByText(/Undone: Set event 002/).waitFor()
    await page.getByText('1 several').waitFor()
    await press('n', '2', 'Enter')
    await page.getByText('1 several').waitFor({ state: 'detached' })
  })

  it('pulls are made with other handles', async () => {
    await press('Alt+5')
    await tabTo(page.getByRole('slider', { name: /Handles/ }))
    await press('Home', 'ArrowRight', 'ArrowRight')
    await page.getByText('Handles: 2 frames at either end').waitFor()
    await tabTo(page.getByRole('group', { name: 'Folder' }).getByRole('button').first())
    await press('Enter')
    await tabTo(button(/^Make 3 pulls/))
    await press('Enter')
    await page.getByText('Making 3 pulls.').waitFor()
  })

  it('a master is named in its field, rendered, checked, and right in every frame', async () => {
    await press('Alt+6')
    await tabTo(page.getByLabel('File name'))
    await press('Control+a')
    await page.keyboard.type('by keys')
    // A step's key works from within a field.
    await press('Alt+5')
    await page.getByRole('heading', { name: 'Conform' }).waitFor()
    await press('Alt+6')
    await tabTo(page.getByLabel('File name'))
    await press('Control+a')
    await page.keyboard.type('by keys')
    await tabTo(page.getByRole('group', { name: 'Folder' }).getByRole('button').first())
    await press('Enter')
    await tabTo(button('Render master'))
    await press('Enter')
    await page.getByText('Checked: it is what the cut says').waitFor({ timeout: 120_000 })
    const [project] = await app.client.ask('projects')
    const [master] = await app.client.ask('masters', project?.id)
    expect([master?.path.endsWith('/by keys.mov'), master?.state]).toEqual([true, 'verified'])
    const raster = { width: project?.width ?? 0, height: project?.height ?? 0 }
    expect(await readCodes(master?.path ?? '', raster, [raster])).toEqual([
      ...Array.from({ length: 25 }, (_, i) => ({ clip: 1, frame: 5 + i })),
      ...Array.from({ length: 20 }, (_, i) => ({ clip: 4, frame: 3 + i })),
      ...Array.from({ length: 20 }, (_, i) => ({ clip: 2, frame: 2 + i })),
    ])
    expect(errors.filter((e) => !/ERR_|Failed to load resource/.test(e))).toEqual([])
  })
})
