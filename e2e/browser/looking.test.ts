/** A close look in a browser: in and out, loop, speed, backwards, sound with its levels, a look that is tried, scopes and codes. */
import { join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import { lattice, writeCube } from '@naranja/core/look'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance } from '../support.ts'
import { codeOf, openBrowser, seriousFindings } from './support.ts'

const media = emptyFolder('looking browser')
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow
const findings: string[] = []
const look = async (name: string) => {
  findings.push(...(await seriousFindings(page)).map((f) => `${name}: ${f}`))
}

beforeAll(async () => {
  await makeClip(join(media, 'A001/A001C001.mov'), { code: 7, frames: 75, timecode: '10:00:00:00', tone: 440 })
  await makeClip(join(media, 'A001/A001C002.mov'), { code: 8, frames: 50, timecode: '10:10:00:00' })
  app = await startInstance('looking-browser', media)
  ;({ project } = await projectOn(app.client, media))
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const picture = () => page.getByRole('region', { name: /A001C001.*picture/ })
const still = () => page.getByTestId('still')
const frame = async (): Promise<number> => Number(/frame (\d+)/.exec((await page.getByTestId('frame').textContent()) ?? '')?.[1] ?? -1)
const press = async (...keys: string[]) => {
  for (const k of keys) await page.keyboard.press(k)
}
/** The middle of the still, as the page shows it. */
const bright = () =>
  still().evaluate((e) => {
    const i = e as HTMLImageElement
    const canvas = document.createElement('canvas')
    canvas.width = i.naturalWidth
    canvas.height = i.naturalHeight
    const g = canvas.getContext('2d') as CanvasRenderingContext2D
    g.drawImage(i, 0, 0)
    const d = g.getImageData(0, 0, i.naturalWidth, Math.floor(i.naturalHeight / 2)).data
    let sum = 0
    for (let n = 1; n < d.length; n += 4) sum += d[n] as number
    return sum / (d.length / 4)
  })
const settled = (part: string) =>
  page.waitForFunction((p) => {
    const i = document.querySelector<HTMLImageElement>('[data-testid=still]')
    return i?.src.includes(p) && i.complete && i.naturalWidth > 0
  }, part)

describe('playing', () => {
  it('within in and out goes over and over, and never leaves them', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/originals`)
    await page.getByRole('row', { name: /A001C001/ }).click()
    await picture().getByText('frame 37 of 75').waitFor()
    await picture().focus()
    await press('Home', ...Array(10).fill('ArrowRight'), 'i', ...Array(14).fill('ArrowRight'), 'o')
    await page.getByText('10–24').waitFor()
    await page.getByRole('button', { name: 'Loop' }).click()
    await look('in and out')
    await picture().getByRole('button', { name: 'Play' }).click()
    const seen: number[] = []
    // Round at least once: a frame that is lower than one before.
    for (let n = 0; n < 400 && !seen.some((f, i) => i > 0 && f < (seen[i - 1] as number)); n++) {
      seen.push(await frame())
      await page.waitForTimeout(40)
    }
    expect(seen.some((f, i) => i > 0 && f < (seen[i - 1] as number))).toBe(true)
    expect(Math.min(...seen)).toBeGreaterThanOrEqual(10)
    expect(Math.max(...seen)).toBeLessThanOrEqual(24)
    await picture().getByRole('button', { name: 'Stop' }).click()
    await page.getByRole('button', { name: 'Loop' }).click()
    await page.getByTitle('Forget in and out').click()
  })
  it('is heard, and its level is seen', async () => {
    await picture().getByRole('button', { name: 'Play' }).click()
    // The tone is 0.4 of full scale: 8 dB below it.
    await page.waitForFunction(() => {
      const peak = Number(document.querySelector<HTMLCanvasElement>('[data-testid=meter]')?.dataset.peak?.split(' ')[0] ?? -120)
      return peak > -12 && peak < -4
    })
    await picture().getByRole('button', { name: 'Stop' }).click()
  })
  it('says when it is slowed down or runs backwards', async () => {
    await page.getByLabel('Speed').selectOption({ label: '0.5×' })
    await picture().focus()
    await press('Home')
    await picture().getByRole('button', { name: 'Play' }).click()
    await page.getByText('at 0.5× speed').waitFor()
    await picture().getByRole('button', { name: 'Stop' }).click()
    await picture().focus()
    await press('End')
    expect(await frame()).toBe(74)
    await press('j')
    await page.getByText(/backwards, every \d+\w\w frame/).waitFor()
    await page.waitForFunction(() => Number(/frame (\d+)/.exec(document.querySelector('[data-testid=frame]')?.textContent ?? '')?.[1]) < 60)
    await press('k')
    const stopped = await frame()
    await settled(`frame=${stopped}&`)
    expect(await codeOf(still())).toEqual({ clip: 7, frame: stopped })
  })
})

describe('a look', () => {
  it('is tried on one clip or on all, and changes nothing', async () => {
    await picture().focus()
    await press('Home')
    await settled('frame=0&')
    const before = await bright()
    const buffer = Buffer.from(
      writeCube(
        lattice(5, (c) => [c[0] / 4, c[1] / 4, c[2] / 4]),
        'night',
      ),
    )
    await page.getByLabel('Look file').setInputFiles({ name: 'night.cube', mimeType: 'text/plain', buffer })
    await settled('look=')
    expect(await bright()).toBeLessThan(before / 2)
    await page.getByRole('row', { name: /A001C002/ }).click()
    await page.waitForFunction(() => {
      const i = document.querySelector<HTMLImageElement>('[data-testid=still]')
      return i && !i.src.includes('look=') && i.complete && i.naturalWidth > 0
    })
    await page.getByRole('row', { name: /A001C001/ }).click()
    await page.getByLabel('on all').check()
    await page.getByRole('row', { name: /A001C002/ }).click()
    await settled('look=')
    await page.getByRole('row', { name: /A001C001/ }).click()
    await page.getByLabel('Look to try').selectOption({ label: 'No look' })
    const clips = await app.client.ask('clips', { projectId: project.id })
    expect(clips.rows.map((c) => c.shownAs)).toEqual(['', ''])
  })
})

describe('scopes', () => {
  it('stand under the picture, and a pixel that is pointed at says its codes', async () => {
    await page.getByRole('button', { name: 'Scopes' }).click()
    for (const name of ['Waveform', 'Parade of red, green, blue', 'Vectorscope', 'Histogram of red, green, blue and luma'])
      await page.getByRole('img', { name }).waitFor()
    await still().click({ position: { x: 200, y: 60 } })
    await page.getByText(/Y′ \d+ {2}Cb \d+ {2}Cr \d+/).waitFor()
    await page.getByText('of 8 bit').waitFor()
    await look('scopes')
  })
})

it('without a serious finding of axe, and without an error', () => {
  expect(findings).toEqual([])
  expect(errors).toEqual([])
})
