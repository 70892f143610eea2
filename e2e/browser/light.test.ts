/** Light copies in the browser: nothing that hands do by habit makes one the master; only its name, said on purpose. */
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import { ffmpeg } from '@naranja/media'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, type Running, startInstance, until } from '../support.ts'
import { openBrowser, seriousFindings } from './support.ts'

const folder = emptyFolder('light browser')
const [sent, card] = [join(folder, 'Sent'), join(folder, 'Card')]
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow
let cutId: string

const links = () => app.client.ask('links', cutId)
const look = async (what: string) => expect([what, await seriousFindings(page)]).toEqual([what, []])
const takeIn = async (path: string) => {
  const volume = await app.client.ask('openVolume', { path })
  await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
  await app.client.settled(project.id, 'prove')
}

beforeAll(async () => {
  mkdirSync(sent)
  for (const n of [1, 2]) {
    const name = `A001C00${n}_SF.mov`
    await makeClip(join(card, name), { code: n, frames: 75, size: { width: 640, height: 360 }, timecode: `1${n}:00:00:00`, reel: 'A001' })
    const coding = ['-vf', 'scale=320:180', '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p']
    await ffmpeg(['-y', '-i', join(card, name), ...coding, '-timecode', `1${n}:00:00:00`, '-metadata:s:v:0', 'reel_name=A001', join(sent, name)])
  }
  app = await startInstance('light-browser', folder)
  project = await app.client.ask('createProject', { name: 'Light' })
  // The copies come first, and a person works with them; then the originals come.
  await takeIn(sent)
  const event = (n: number) =>
    `00${n}  A001     V     C        1${n}:00:01:00 1${n}:00:02:00 01:00:0${n}:00 01:00:0${n + 1}:00\n* FROM CLIP NAME: A001C00${n}_SF.mov\n`
  cutId = (await importText(app.client, project.id, `TITLE: CUT\nFCM: NON-DROP FRAME\n${event(1)}${event(2)}`)).cut.id
  const eventIds = (await links()).map((l) => l.eventId)
  await app.client.ask('decide', { cutId, eventIds, action: 'confirm' })
  await takeIn(card)
  ;({ browser, page, errors } = await openBrowser(app))
}, 120_000)
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

it('a decision for a copy is open again with the reason, the original first; Enter takes that', async () => {
  await page.goto(`${app.instance.address}/p/${project.id}/reconnect/${cutId}`)
  await page.getByText(/Confirmed as Sent\/A001C001_SF\.mov, which is a light copy of .*, as its pictures show/).waitFor()
  const candidates = page.getByRole('list', { name: 'Candidates' })
  await candidates.getByRole('button', { name: /1 A001C001_SF\.mov Card\// }).waitFor()
  await candidates.getByRole('button', { name: /2 A001C001_SF\.mov Sent\/ a light copy/ }).waitFor()
  await page.keyboard.press('Enter')
  await until('the original is taken', async () => (await links())[0]?.state === 'set-by-hand')
  expect((await links())[0]?.candidates[0]).toMatchObject({ place: 'Card/', light: null })
})

it('the copy is asked about by name, and Enter twice does not take it', async () => {
  await page.getByText('Event 002 on V1: several').waitFor()
  await page.keyboard.press('2')
  await page.getByText('a light copy', { exact: true }).first().waitFor()
  const asked = page.getByRole('dialog', { name: 'Use a light copy as the original?' })
  await page.keyboard.press('Enter')
  await asked.getByText('Sent/A001C002_SF.mov').waitFor()
  await look('the question')
  await page.keyboard.press('Enter')
  await asked.waitFor({ state: 'hidden' })
  expect((await links())[1]?.state).toBe('several')
  await page.getByRole('button', { name: 'Use this light copy …' }).click()
  await asked.getByRole('button', { name: 'Use A001C002_SF.mov' }).click()
  await until('it is taken as meant', async () => (await links())[1]?.state === 'set-by-hand')
})

it('before a master the copy is named, with what is enlarged and the raster that most originals have', async () => {
  await page.goto(`${app.instance.address}/p/${project.id}/masters`)
  await page.getByText('The master is 320×180, smaller than most originals: 2 of 2 have 640×360.').waitFor()
  await page.getByRole('button', { name: 'Set the raster to 640×360' }).click()
  await page.getByText('1 event comes from a light copy, as decided: A001C002_SF.mov.').waitFor()
  const enlarged = page.getByRole('list', { name: 'Enlarged sources' })
  await enlarged.getByText('320×180').waitFor()
  await enlarged.getByText('to 200 %').waitFor()
  await look('before the master')
  expect(errors).toEqual([])
})
