/** Originals by keyboard alone: backed up while they are taken in, narrowed, filled by rule, given timecode, balanced, shown in their folder. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import { writeDng } from '@naranja/demo'
import type { Browser, Locator, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, type Running, startInstance, until } from '../support.ts'
import { openBrowser, seriousFindings, tabOn } from './support.ts'

const parent = emptyFolder('keys originals media')
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow

beforeAll(async () => {
  const card = join(parent, 'Card A')
  for (const n of [1, 2]) await makeClip(join(card, `Day 1/A001/A001C00${n}.mov`), { code: n, frames: 25, timecode: `10:0${n}:00:00` })
  await makeClip(join(card, 'Day 1/Loose/take1.mov'), { code: 3, frames: 25 })
  mkdirSync(join(card, 'Day 2/Telescope'), { recursive: true })
  // The left half is grey under a warm light, the right half red.
  const [width, height] = [64, 36]
  const light = new Uint16Array(width * height * 3)
  for (let i = 0; i < width * height; i++) {
    const grey = i % width < width / 2
    for (const [c, v] of (grey ? [0.3, 0.2, 0.1] : [0.4, 0.05, 0.05]).entries()) light[i * 3 + c] = Math.round(v * 65_535)
  }
  for (let f = 0; f < 4; f++) writeFileSync(join(card, `Day 2/Telescope/moon_${101 + f}.dng`), writeDng({ width, height, light, neutral: [1, 1, 1] }))
  for (const d of ['First disk', 'Second disk']) mkdirSync(join(parent, d))
  app = await startInstance('keys-originals', parent)
  project = await app.client.ask('createProject', { name: 'Keys', rate: '25', width: 640, height: 360 })
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const press = async (...keys: string[]) => {
  for (const k of keys) await page.keyboard.press(k)
}
const tabTo = (target: Locator) => tabOn(page, target)
const button = (name: string | RegExp) => page.getByRole('button', { name }).first()
const clips = async () => (await app.client.ask('clips', { projectId: project.id })).rows
const told = async (name: RegExp) => (await clips()).find((c) => name.test(c.name))

describe('without a mouse', () => {
  it('a card is backed up to two places while it is taken in', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/originals`)
    await tabTo(button('Add originals'))
    await press('Enter')
    const dialog = page.getByRole('dialog', { name: 'Add originals' })
    await tabTo(dialog.getByLabel('All of Card A'))
    await press('Space')
    await tabTo(
      dialog
        .getByRole('group', { name: /Back up first/ })
        .getByRole('button')
        .first(),
    )
    await press('Enter')
    await tabTo(dialog.getByRole('group', { name: 'And to a second place' }).getByRole('button').first())
    await press('Enter')
    await tabTo(dialog.getByRole('button', { name: 'Back up and add originals' }))
    await press('Enter')
    await until('four clips, safe twice', async () => {
      const all = await clips()
      return all.length === 4 && all.every((c) => c.backups === 2)
    })
  })
  it('the list is narrowed and widened again, and the focus comes back', async () => {
    await tabTo(button('Filter'))
    await press('Enter')
    await page.getByRole('dialog').first().waitFor()
    await press('Escape')
    // It comes back once the list of conditions has closed.
    await until('the focus', () => button('Filter').evaluate((e) => e === document.activeElement))
  })
  it('a scene is filled by rule, seen beforehand, and taken back', async () => {
    await tabTo(button('Fill by rule'))
    await press('Enter')
    const dialog = page.getByRole('dialog', { name: 'Fill by rule' })
    await dialog.getByText(/would change/).waitFor()
    await tabTo(dialog.getByLabel('Field to fill'))
    await page.keyboard.type('cam')
    await tabTo(dialog.getByRole('button', { name: 'Fill camera' }))
    await press('Enter')
    await dialog.waitFor({ state: 'detached' })
    expect((await told(/A001C001/))?.camera).toBe('A001')
    await press('Control+z')
    await until('taken back', async () => (await told(/A001C001/))?.camera === null)
  })
  it('timecode is given by rule', async () => {
    await press('Alt+0')
    await tabTo(button(/Give .*timecode/))
    await press('Enter')
    const dialog = page.getByRole('dialog', { name: /timecode/i })
    await dialog.waitFor()
    await tabTo(dialog.getByRole('radio', { checked: true }).first())
    await press('ArrowRight')
    const main = dialog.getByRole('button', { name: /^Give/ }).last()
    for (let i = 0; i < 4 && (await main.isDisabled()); i++) await press('ArrowRight')
    await tabTo(main)
    await press('Enter')
    await until('timecode', async () => (await told(/take1/))?.start !== null)
  })
  it('a raw clip is balanced by what is aimed at', async () => {
    await press('Alt+1')
    const moon = await told(/moon/)
    await tabTo(page.getByLabel('Originals, arrow keys choose'))
    await press('End')
    const panel = page.getByRole('complementary', { name: /Clip moon/ })
    await panel.waitFor()
    await tabTo(panel.getByRole('button', { name: 'Point at a grey' }))
    await press('Enter')
    const picture = page.getByRole('region', { name: /moon.*Enter points/ })
    await tabTo(picture)
    // From the middle a quarter to the left, into the grey.
    await press('Shift+ArrowUp', ...Array.from({ length: 25 }, () => 'Shift+ArrowLeft'))
    const aim = await picture.getByTestId('aim').evaluate((e) => [(e as HTMLElement).style.left, (e as HTMLElement).style.top])
    expect(aim).toEqual(['25%', '50%'])
    await press('Enter')
    await panel.getByText('settings of its own').waitFor()
    // The page says so at once, before it is kept.
    const decode = await until('it is kept', async () => (await app.client.askAnything('clip', moon?.id)).decode)
    if (decode.balance.kind !== 'picked') throw new Error(`The balance is ${decode.balance.kind}.`)
    // Red against green, blue against green, as the light was.
    expect(decode.balance.neutral.map((v) => Math.round(v * 10) / 10)).toEqual([1.5, 1, 0.5])
  })
  it('a clip is shown in its folder', async () => {
    const panel = page.getByRole('complementary', { name: /Clip moon/ })
    await tabTo(panel.getByRole('button', { name: 'Show in its folder' }))
    await press('Enter')
    const dialog = page.getByRole('dialog', { name: 'Add originals' })
    await dialog.getByRole('list', { name: 'Contents' }).locator('[aria-current]').getByText('moon_101.dng').waitFor()
    expect(await dialog.getByRole('button', { name: 'Telescope' }).count()).toBe(1)
    // Back along the way to it.
    await tabTo(dialog.getByRole('button', { name: 'Day 2', exact: true }))
    await press('Enter')
    await dialog.getByLabel('Telescope').waitFor()
    expect(await seriousFindings(page)).toEqual([])
    await press('Escape')
  })
  it('without an error', () => {
    expect(errors).toEqual([])
  })
})
