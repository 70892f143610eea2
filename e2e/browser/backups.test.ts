/** The night shift in a browser: cards put in, backed up to two places, pulled, looked after by themselves. */
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, type Running, startInstance } from '../support.ts'
import { choosePlace, openBrowser, seriousFindings } from './support.ts'

const folder = emptyFolder('backups browser')
const media = join(folder, 'media')
const drawer = join(folder, 'drawer')
let app: Running
let browser: Browser
let page: Page
let errors: string[]
const findings: string[] = []
const look = async (name: string) => {
  findings.push(...(await seriousFindings(page)).map((f) => `${name}: ${f}`))
}

beforeAll(async () => {
  for (const p of ['North disk', 'South disk']) mkdirSync(join(media, p), { recursive: true })
  for (const c of [1, 2]) {
    const roll = join(drawer, `Card N00${c}/Day ${c}/N00${c}`)
    for (const i of [1, 2]) await makeClip(join(roll, `N00${c}C00${i}.mov`), { code: c * 10 + i, frames: 20, timecode: `1${i}:00:00:00` })
    for (const i of [1, 2, 3]) writeFileSync(join(roll, `Z${i}.bin`), Buffer.alloc(4_000_000, `${c} ${i}`))
  }
  app = await startInstance('backups-browser', media, { drawer, slots: media })
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const dialog = () => page.getByRole('dialog', { name: 'Add originals' })
const step = (name: string) => page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name })
const view = (name: string) => page.getByRole('radio', { name }).click()

describe('the night shift', () => {
  it('puts a card in and backs it up to two places while taking it in', async () => {
    await page.goto(app.instance.address)
    await page.getByLabel('Name').fill('Night')
    await page.getByRole('button', { name: 'Start project' }).click()
    await dialog().getByRole('button', { name: 'Put in Card N001' }).click()
    await dialog().getByLabel('All of Card N001').check()
    const first = dialog().getByRole('group', { name: /^Back up first/ })
    await first.getByRole('button', { name: /^North disk/ }).waitFor()
    // A card is no place to back up to.
    expect((await first.getByRole('button').allTextContents()).some((t) => t.includes('Card'))).toBe(false)
    await choosePlace(dialog(), 'Back up first, verified, to', 'North disk')
    await choosePlace(dialog(), 'And to a second place', 'South disk')
    await look('backing up')
    await dialog().getByRole('button', { name: 'Back up and add originals' }).click()
    await page.getByRole('row', { name: /N001C001\.mov.*2 backups/ }).waitFor()
    await page.getByRole('row', { name: /N001C002\.mov.*2 backups/ }).waitFor()
    expect(existsSync(join(media, 'South disk/Originals/Card N001/ascmhl/ascmhl_chain.xml'))).toBe(true)
  })

  it('sees on the roll board that the roll is safe twice, and verifies it again', async () => {
    await view('Roll board')
    await page.getByText('Every roll is safe twice.').waitFor()
    await page.getByRole('button', { name: /N001.*all safe twice/ }).waitFor()
    const backups = page.getByRole('region', { name: 'Backups' })
    expect(await backups.getByText('5 of 5 files verified').count()).toBe(2)
    await look('roll board')
    await page.getByRole('button', { name: 'Verify all' }).click()
    await backups
      .getByText(/compared again on/)
      .nth(1)
      .waitFor()
    await look('verified')
  })

  it('is told once of originals without a backup', async () => {
    mkdirSync(join(media, 'Loose/Day 3'), { recursive: true })
    await makeClip(join(media, 'Loose/Day 3/L001C001.mov'), { code: 90, frames: 20, timecode: '15:00:00:00' })
    await makeClip(join(media, 'Loose/Day 3/L001C002.mov'), { code: 91, frames: 20 })
    await page.getByRole('button', { name: 'Add originals' }).first().click()
    await dialog().getByLabel('All of Loose').check()
    await dialog().getByRole('button', { name: 'Add originals', exact: true }).click()
    await page.getByText('2 of 4 originals have no verified backup').waitFor()
    await look('unsafe')
    await page.getByRole('button', { name: 'Go on without' }).click()
    await page.getByRole('button', { name: 'Go on without' }).waitFor({ state: 'detached' })
    await page.reload()
    await view('Roll board')
    await page.getByText('1 of 2 rolls are safe twice.').waitFor()
    expect(await page.getByRole('button', { name: 'Go on without' }).count()).toBe(0)
  })

  it('gives timecode by rule to what has none, sees it beforehand, and takes it back', async () => {
    await view('List')
    await page.getByRole('button', { name: 'no timecode 1' }).click()
    await page.getByRole('button', { name: 'Give timecode' }).click()
    const rule = page.getByRole('dialog', { name: 'Give timecode' })
    await rule.getByText('1 of 1 clip would change').waitFor()
    await rule.getByRole('radio', { name: 'Heard in its sound' }).click()
    await rule.getByText('no linear timecode is heard in its sound').waitFor()
    await rule.getByText('0 of 1 clip would change').waitFor()
    await rule.getByRole('radio', { name: 'An hour for each roll' }).click()
    await rule.getByRole('row', { name: /L001C002\.mov.*none.*01:00:00:00/ }).waitFor()
    await look('timecode by rule')
    await rule.getByRole('button', { name: 'Give timecode' }).click()
    await page.getByText('Gave L001C002.mov a timecode by rule').first().waitFor()
    await page.getByRole('button', { name: 'no timecode 1' }).waitFor({ state: 'detached' })
    await page.keyboard.press('Control+z')
    await page.getByRole('button', { name: 'no timecode 1' }).waitFor()
    await page.getByRole('button', { name: 'no timecode 1' }).click()
  })

  it('lets the next card take care of itself, even when it is pulled before it is safe', async () => {
    await view('Roll board')
    const arrivals = page.getByRole('region', { name: 'When a card arrives' })
    await arrivals.getByLabel('Take it in by itself').check()
    await choosePlace(arrivals, 'Back up first, verified, to', 'North disk')
    await arrivals.getByRole('button', { name: 'Save', exact: true }).click()
    await page.getByText('Cards are taken in as they come.').waitFor()
    // Held, so that the card is pulled while its backup is still to be made, however fast this machine is.
    await app.client.ask('pause', { paused: true })
    await step('Settings').click()
    await page.getByRole('button', { name: 'Put in Card N002' }).click()
    const backups = page.getByRole('region', { name: 'Backups' })
    await page
      .getByText(/Backup of Card N002/)
      .first()
      .waitFor()
    await page.getByRole('button', { name: 'Pull Card N002' }).click()
    await page.getByRole('button', { name: 'Put in Card N002' }).waitFor()
    await app.client.ask('pause', { paused: false })
    await step('Originals').click()
    await view('Roll board')
    await backups.getByRole('listitem').filter({ hasText: 'Card N002' }).getByText('not complete').waitFor()
    await look('a pulled card')
    await step('Settings').click()
    await page.getByRole('button', { name: 'Put in Card N002' }).click()
    await step('Originals').click()
    await view('Roll board')
    await page.getByRole('button', { name: /N002.*2 safe once|N002.*safe once/ }).waitFor()
    await backups.getByRole('listitem').filter({ hasText: 'Card N002' }).getByText('complete', { exact: true }).waitFor()
  })

  it('without a serious finding of axe, and without an error', () => {
    expect(findings).toEqual([])
    expect(errors).toEqual([])
  })
})
