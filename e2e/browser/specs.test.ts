/** Specs and framing in a browser: the outcome is seen while a spec is changed, a crop is drawn, and what is made is what was shown. */
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { type ProjectRow, SpecFile } from '@naranja/contract'
import { probe } from '@naranja/media'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, rate, type Running, startInstance, until } from '../support.ts'
import { choosePlace, openBrowser, seriousFindings, tabOn } from './support.ts'

const media = emptyFolder('specs browser')
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow
const findings: string[] = []
const look = async (name: string) => {
  findings.push(...(await seriousFindings(page)).map((f) => `${name}: ${f}`))
}
const specs = () => app.client.ask('specs', { projectId: project.id })
const made = () => page.getByRole('img', { name: 'As the copy will be' })
/** The size of the picture that the copy will have, once what was chosen last is shown. */
const shown = async (width: number, height: number) => {
  await page.getByText(`${width}×${height},`, { exact: false }).last().waitFor()
  await page.waitForFunction(
    ([w, h]) => {
      const i = document.querySelector<HTMLImageElement>('img[alt="As the copy will be"]')
      return i?.complete && i.naturalWidth === w && i.naturalHeight === h
    },
    [width, height] as const,
  )
}

beforeAll(async () => {
  await makeClip(join(media, 'Drive/A001/A001C001.mov'), { code: 7, frames: 50, timecode: '10:00:00:00', reel: 'A001', tone: 440 })
  await makeClip(join(media, 'Drive/A001/A001C002.mov'), { code: 8, frames: 50, timecode: '10:10:00:00', reel: 'A001' })
  app = await startInstance('specs-browser', media)
  ;({ project } = await projectOn(app.client, join(media, 'Drive')))
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

describe('a spec', () => {
  it('shows what it makes of a real frame as it is changed', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/specs`)
    await page.getByRole('button', { name: 'New spec' }).click()
    await page.getByRole('region', { name: 'New spec' }).waitFor()
    await page.getByLabel('Name', { exact: true }).fill('Cutting copy')
    await page.keyboard.press('Enter')
    // Named, it is saved.
    await page.getByText('Cutting copy is saved as version 2.').waitFor()
    await shown(320, 180)
    await look('specs')
    await page.getByLabel('Height').fill('90')
    await shown(160, 90)
    await page.getByLabel('Size', { exact: true }).first().selectOption('exact')
    await page.getByLabel('Width').fill('128')
    await page.getByLabel('Height').fill('128')
    await page.getByRole('radio', { name: 'Fill' }).click()
    await shown(128, 128)
    const before = await made().getAttribute('src')
    await page.getByRole('button', { name: 'source timecode' }).click()
    await page.waitForFunction((b) => document.querySelector('img[alt="As the copy will be"]')?.getAttribute('src') !== b, before)
    await look('burn-ins')
  })
  it('says beside a setting what it breaks, and offers only what goes together', async () => {
    await page.getByLabel('Family').selectOption('H.264')
    await page.getByLabel('Wrapper').selectOption('mp4')
    await page.getByText(/MPEG-4 mp4 carries no reel/).waitFor()
    expect(await page.getByLabel('Coded as').locator('option').allTextContents()).toEqual(['AAC', 'FLAC'])
    await page.getByLabel('Family').selectOption('ProRes')
    expect(await page.getByLabel('Wrapper').locator('option').allTextContents()).toEqual(['QuickTime mov', 'MXF, one file (OP1a)', 'Matroska mkv'])
    await page.getByLabel('Width').fill('127')
    await page.getByRole('alert').filter({ hasText: 'a width that divides by 2' }).waitFor()
    expect(await page.getByRole('button', { name: /^Save as version/ }).isDisabled()).toBe(true)
    await page.getByLabel('Width').fill('128')
    await page.getByText('All 2 clips', { exact: false }).waitFor()
    await page.getByText('2 at 25').waitFor()
  })
  it('is saved as a version, exported, and imported under a name of its own', async () => {
    // Looking at another spec meanwhile loses nothing.
    await page.getByRole('button', { name: /^DNxHR SQ intermediate/ }).click()
    await page.getByRole('region', { name: 'DNxHR SQ intermediate' }).waitFor()
    await page.getByRole('button', { name: /^Cutting copy\s*ProRes/ }).click()
    await page.getByRole('button', { name: 'Save as version 3' }).click()
    await page.getByText('Cutting copy is saved as version 3.').waitFor()
    const download = page.waitForEvent('download')
    await page.getByRole('button', { name: 'Export' }).click()
    const path = await (await download).path()
    const { spec } = SpecFile.parse(JSON.parse(readFileSync(path, 'utf8')))
    expect([spec.name, spec.frame, spec.framing, spec.burnIns.length]).toEqual(['Cutting copy', { by: 'exact', width: 128, height: 128 }, 'fill', 1])
    await page.getByLabel('Spec file').setInputFiles(path)
    await page.getByRole('button', { name: /^Cutting copy 2/ }).waitFor()
    await page.getByLabel('Spec file').setInputFiles({ name: 'no.json', mimeType: 'application/json', buffer: Buffer.from('{}') })
    await page.getByText('no.json is not a spec file', { exact: false }).waitFor()
    await page.getByRole('button', { name: 'Remove', exact: true }).click()
    await page.getByRole('button', { name: 'Bring it back' }).click()
    await until('the spec', async () => (await specs()).some((s) => s.name === 'Cutting copy 2'))
    await page
      .getByRole('button', { name: /^Cutting copy\D/ })
      .first()
      .click()
    await page.getByRole('button', { name: 'Make default' }).click()
    await until('the default', async () => (await specs()).find((s) => s.isDefault)?.name === 'Cutting copy')
  })
})

describe('a crop', () => {
  const crop = () => page.getByRole('application', { name: /^Crop/ })
  const crops = async () => (await app.client.ask('clips', { projectId: project.id })).rows.map((c) => c.crop)
  it('is drawn, nudged and typed, and holds its shape', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/copies/framing`)
    await page.getByRole('row', { name: /A001C001/ }).click()
    await page.getByLabel('Shape of the crop').selectOption('1:1')
    await page.getByRole('application', { name: /180 by 180 at 70, 0/ }).waitFor()
    await look('framing')
    await tabOn(page, crop())
    await page.keyboard.press('Shift+ArrowLeft')
    await page.getByRole('application', { name: /180 by 180 at 50, 0/ }).waitFor()
    await page.keyboard.press('Alt+Shift+ArrowLeft')
    await page.getByRole('application', { name: /160 by 160 at 50, 0/ }).waitFor()
    await page.getByLabel('From the top').fill('10')
    const box = (await crop().boundingBox()) as { x: number; y: number; width: number; height: number }
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
    await page.mouse.down()
    await page.mouse.move(box.x + box.width / 2 + box.width / 8, box.y + box.height / 2, { steps: 4 })
    await page.mouse.up()
    await page.getByRole('application', { name: /160 by 160 at 70, 10/ }).waitFor()
    await page.getByRole('button', { name: 'Crop this clip' }).click()
    await page.getByText('A001C001.mov: cropped to 160×160 at 70, 10.').first().waitFor()
    expect(await crops()).toEqual([{ x: 70, y: 10, width: 160, height: 160 }, null])
    await page.getByRole('button', { name: 'Crop all 2 of 320×180' }).click()
    await until('both', async () => (await crops()).every((c) => c?.width === 160))
  })
  it('is what the copies show, of two specs at once', async () => {
    await page.getByRole('radio', { name: 'State' }).click()
    await page.getByRole('button', { name: 'Cutting copy', exact: true }).waitFor()
    await page.getByLabel('Also, from the same decode').selectOption({ label: 'ProRes proxy 1080' })
    await choosePlace(page, 'Copies go to', 'Drive')
    await look('two specs')
    await page.getByRole('button', { name: 'Make 4 edit copies' }).click()
    const file = (spec: string) => join(media, 'Drive/Edit copies', spec, 'Drive/A001/A001C001.mov')
    await until('the copies', async () => existsSync(file('Cutting copy')) && existsSync(file('ProRes proxy 1080')))
    await page.getByText('all 2 clips have one').waitFor()
    const size = async (spec: string) => {
      const t = await probe(Buffer.from(file(spec)), { projectRate: rate(25) })
      return [t.width, t.height, t.start, t.reel]
    }
    expect([await size('Cutting copy'), await size('ProRes proxy 1080')]).toEqual([
      [128, 128, 900000, 'A001'],
      [160, 160, 900000, 'A001'],
    ])
    // Shown otherwise from now on, they are out of date, and say so.
    await app.client.ask('setCrop', {
      projectId: project.id,
      clipIds: (await app.client.ask('clips', { projectId: project.id })).rows.map((c) => c.id),
      crop: null,
    })
    await page.getByText('out of date').first().waitFor()
    await page
      .getByLabel(/Remake what is out of date/)
      .first()
      .check()
    await page.getByRole('button', { name: 'Make 4 edit copies' }).click()
    await page.getByText('out of date').first().waitFor({ state: 'detached' })
    await until('the whole picture again', async () => (await size('ProRes proxy 1080'))[0] === 320)
  })
  it('nothing serious is found by axe, and no error was told', () => expect([findings, errors]).toEqual([[], []]))
})
