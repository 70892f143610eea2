/** What pages say while something is being read, has just been done, or has failed: never what held before. */
import { mkdirSync, readdirSync, readFileSync, renameSync } from 'node:fs'
import { join } from 'node:path'
import { gzipSync } from 'node:zlib'
import { Instance } from '@naranja/command/instance'
import { type ProjectRow, type Volume, addressOf, routes } from '@naranja/contract'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, importText, makeClip, ref, type Running, startInstance, until } from '../support.ts'
import { openBrowser, seriousFindings } from './support.ts'

const parent = emptyFolder('saying')
const drive = join(parent, 'Drive')
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow
let volume: Volume

const held = (paused: boolean) => app.client.ask('pause', { paused })
const takeIn = (folder: string) => app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: ref(folder) }] })
const step = (name: string) => page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name })

beforeAll(async () => {
  for (const n of [1, 2]) await makeClip(join(drive, 'A001', `CLIP000${n}.mov`), { code: n, frames: 30, timecode: `1${n}:00:00:00`, reel: 'A001' })
  mkdirSync(join(drive, 'B001'))
  await makeClip(join(drive, 'B001', 'B001C001.mov'), { code: 3, frames: 30 })
  app = await startInstance('saying', parent)
  project = await app.client.ask('createProject', { name: 'Saying' })
  volume = await app.client.ask('openVolume', { path: drive })
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

describe('originals on their way', () => {
  it('are said to be coming; nobody is asked to begin, and no rate is told that nobody knows', async () => {
    await held(true)
    await page.setViewportSize({ width: 1400, height: 800 })
    await page.goto(`${app.instance.address}/p/${project.id}/originals`)
    await page.getByText('Begin with the originals').waitFor()
    expect(await page.getByText('25 fps').count()).toBe(0)
    await takeIn('A001')
    await page.getByText('It waits for its turn in the queue.').waitFor()
    expect(await page.getByText('Begin with the originals').count()).toBe(0)
    // The project's page says the same.
    await step('Project').click()
    await page.getByText('It waits for its turn in the queue.').waitFor()
    await step('Originals').click()
    await page.getByText('It waits for its turn in the queue.').waitFor()
    // From here on until the clips stand there the sentence must not come back.
    await page.evaluate(() => {
      const w = window as { begun?: boolean }
      new MutationObserver(() => {
        if (document.body.textContent?.includes('Begin with the originals')) w.begun = true
      }).observe(document.body, { childList: true, subtree: true, characterData: true })
    })
    await held(false)
    await page.getByRole('row', { name: /CLIP0002/ }).waitFor()
    expect(await page.evaluate(() => (window as { begun?: boolean }).begun ?? false)).toBe(false)
    await page.getByText('25 fps · 320×180').waitFor()
  })
  it('that could not be read are named where they were added, with the reason, and tried again', async () => {
    await held(true)
    await takeIn('B001')
    renameSync(join(drive, 'B001'), join(drive, 'hidden'))
    await held(false)
    const failed = page.getByRole('alert').filter({ hasText: 'Drive/B001' })
    await failed.waitFor()
    renameSync(join(drive, 'hidden'), join(drive, 'B001'))
    await failed.getByRole('button', { name: 'Try again' }).click()
    await page.getByRole('row', { name: /B001C001/ }).waitFor()
    await failed.waitFor({ state: 'detached' })
    await page.setViewportSize({ width: 1280, height: 800 })
  })
})

describe('a decision', () => {
  it('is in what is said of the next master; until it is, nothing is said', async () => {
    // Timecode alone: at most likely.
    const edl = `TITLE: CUT\nFCM: NON-DROP FRAME\n001  AX       V     C        11:00:00:05 11:00:00:15 01:00:00:00 01:00:00:10\n002  AX       V     C        12:00:00:05 12:00:00:15 01:00:00:10 01:00:00:20\n`
    const { cut } = await importText(app.client, project.id, edl)
    const links = () => app.client.ask('links', cut.id)
    const likely = (await links()).filter((l) => l.state === 'likely')
    expect(likely).toHaveLength(2)
    await page.goto(`${app.instance.address}/p/${project.id}/masters`)
    await page.getByText('2 matches are likely and unconfirmed').waitFor()
    await step('Reconnect').click()
    await page.getByRole('heading', { name: 'Reconnect' }).waitFor()
    // A slow line: the page has the answers of before for a while.
    await page.route(/\/api\/cuts\/[^/]+\/(links|plan)/, async (route) => {
      await new Promise((r) => setTimeout(r, 1500))
      await route.continue()
    })
    await app.client.ask('decide', { cutId: cut.id, eventIds: likely.map((l) => l.eventId), action: 'confirm' })
    await until('the page to have heard', async () => (await links()).every((l) => l.state === 'confirmed'))
    await step('Masters').click()
    await page.getByText('Going through the events …').waitFor()
    expect(await page.getByText(/unconfirmed/).count()).toBe(0)
    await page.getByText('Every event has an original that is here.').waitFor()
    expect(await page.getByText(/unconfirmed/).count()).toBe(0)
  })
})

describe('a file that was moved and renamed', () => {
  it('is said to be gone where it matters, and is looked for from there', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/originals`)
    await page.getByRole('row', { name: /CLIP0001/ }).click()
    mkdirSync(join(drive, 'Sorted'))
    renameSync(join(drive, 'A001/CLIP0001.mov'), join(drive, 'Sorted/Wide.mov'))
    await page.getByText(/Its file is not in its folder any more.*It was at .*CLIP0001\.mov/).waitFor()
    await page.getByText('the original is gone').waitFor()
    await step('Project').click()
    await page.getByText('1 clip is gone from a volume that is here.').waitFor()
    await step('Masters').click()
    await page.getByText('its original is gone: CLIP0001.mov').waitFor()
    await step('Originals').click()
    await page.getByRole('button', { name: 'gone 1' }).click()
    await page.getByRole('button', { name: 'Look for it' }).first().click()
    const dialog = page.getByRole('dialog', { name: 'Look for' })
    expect(await seriousFindings(page)).toEqual([])
    await dialog.getByLabel('Sorted', { exact: true }).check()
    await dialog.getByRole('button', { name: 'Look there' }).click()
    await page.getByText(`1 clip found in ${join(drive, 'Sorted')}.`).waitFor()
    await step('Masters').click()
    await page.getByText('Every event has an original that is here.').waitFor()
  })
})

it('the page itself is never kept by a browser, and stands in no frame', async () => {
  const { headers } = await fetch(`${app.instance.address}/p/${project.id}/originals`)
  expect(['cache-control', 'x-content-type-options', 'x-frame-options'].map((h) => headers.get(h))).toEqual(['no-store', 'nosniff', 'DENY'])
  expect(headers.get('content-security-policy')).toMatch(/^default-src 'self'.*frame-ancestors 'none'$/)
})

describe('a page', () => {
  it('tells a browser that is not known how it becomes so, and shows itself to one that is', async () => {
    const context = await browser.newContext()
    const other = await context.newPage()
    await other.goto(`${app.instance.address}/p/${project.id}/originals`)
    await other.getByRole('heading', { name: 'This browser is not known here' }).waitFor()
    await other.getByText('./naranja address').waitFor()
    expect(await seriousFindings(other)).toEqual([])
    await other.goto(await Instance.addressOf(app.instance.config, `/p/${project.id}/originals`))
    await other.getByRole('grid', { name: 'Originals' }).waitFor()
    expect(other.url()).toBe(`${app.instance.address}/p/${project.id}/originals`)
    await context.close()
  })

  it('that was loaded before an upgrade loads itself anew, but not under the hands of somebody who types', async () => {
    const warnings = `**${addressOf(routes.warnings, undefined)}`
    let loads = 0
    page.on('load', () => loads++)
    await page.goto(`${app.instance.address}/`)
    const name = page.getByLabel('Name')
    await name.fill('half a na')
    await page.route(warnings, (r) => r.fulfill({ json: { warnings: [], page: '/assets/index-LATER.js' } }))
    const asked = page.waitForResponse(warnings)
    await asked
    await page.waitForTimeout(3000)
    expect([loads, await name.inputValue()]).toEqual([1, 'half a na'])
    await name.blur()
    await until('the page anew', async () => loads > 1)
    // What comes as it was is not loaded for ever.
    await page.waitForResponse(warnings)
    await page.waitForTimeout(3000)
    expect(loads).toBe(2)
    await page.unroute(warnings)
  })
})

it('without an error', async () => {
  expect((await app.client.ask('clips', { projectId: project.id })).total).toBe(3)
  expect(errors).toEqual([])
})

describe('the program of a page', () => {
  interface Part {
    readonly file: string
    readonly imports?: readonly string[]
  }
  const web = join(import.meta.dirname, '../../packages/web')
  const dist = join(web, 'dist')
  it('comes in parts: no screen waits for more than 300 kB of it', () => {
    const parts = JSON.parse(readFileSync(join(dist, '.vite/manifest.json'), 'utf8')) as Record<string, Part>
    const size = (key: string): number => gzipSync(readFileSync(join(dist, parts[key]?.file ?? ''))).length
    const needed = (key: string, found: Set<string>): Set<string> => {
      if (found.has(key)) return found
      found.add(key)
      for (const k of parts[key]?.imports ?? []) needed(k, found)
      return found
    }
    // What the doors of the steps give to be loaded.
    const steps = readdirSync(join(web, 'src/steps')).map((step) => `src/steps/${step}`)
    const screens = [...steps, 'src/guide'].flatMap((folder) =>
      [...readFileSync(join(web, folder, 'index.ts'), 'utf8').matchAll(/import\('\.\/(\w+\.tsx)'\)/g)].map((m) => `${folder}/${m[1]}`),
    )
    expect(screens.length).toBeGreaterThan(12)
    for (const screen of screens) {
      const all = [...needed(screen, needed('index.html', new Set()))]
      expect({ screen, kB: Math.round(all.reduce((sum, k) => sum + size(k), 0) / 1000) }).toSatisfy((s: { kB: number }) => s.kB > 50 && s.kB < 300)
    }
  })
  it('that does not come leaves the way to the other screens, and is asked for again', async () => {
    const own = await page.context().newPage()
    await own.route('**/assets/QueuePage-*.js', (r) => r.abort())
    await own.goto(`${app.instance.address}/p/${project.id}`)
    const to = (name: string) => own.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name })
    await to('Queue').click()
    await own.getByRole('heading', { name: 'This screen cannot be shown' }).waitFor()
    await to('Settings').click()
    await own.getByRole('heading', { name: 'Settings' }).waitFor()
    await to('Queue').click()
    await own.getByRole('heading', { name: 'This screen cannot be shown' }).waitFor()
    await own.unroute('**/assets/QueuePage-*.js')
    await own.getByRole('button', { name: 'Load the page again' }).click()
    await own.getByRole('heading', { name: 'Queue' }).waitFor()
    await own.close()
  })
})

describe('the guide', () => {
  it('opens at the page about the screen, from an empty one and from the keys, with its pictures, and leads on', async () => {
    const empty = await app.client.ask('createProject', { name: 'Nothing yet' })
    await page.goto(`${app.instance.address}/p/${empty.id}/cuts`)
    const opened = page.context().waitForEvent('page')
    await page.getByRole('link', { name: 'How this works' }).click()
    const guide = await opened
    await guide.getByRole('heading', { name: '3. Cut lists' }).waitFor()
    const pictures = guide.locator('main img')
    for (const picture of await pictures.all()) {
      await picture.scrollIntoViewIfNeeded()
      await until('the picture', () => picture.evaluate((i: HTMLImageElement) => i.complete && i.naturalWidth === 1280))
    }
    expect(await pictures.count()).toBe(2)
    expect(await seriousFindings(guide)).toEqual([])
    await guide.getByRole('navigation', { name: 'Guide' }).getByRole('link', { name: 'First steps' }).click()
    await guide.getByRole('table').getByRole('link', { name: '4. Reconnect' }).click()
    await guide.getByRole('heading', { name: '4. Reconnect' }).waitFor()
    expect(await guide.title()).toBe('4. Reconnect · Naranja')
    await guide.close()
    await page.keyboard.press('?')
    await page.getByRole('dialog', { name: 'Keys' }).waitFor()
    expect(await page.getByRole('link', { name: 'the guide' }).getAttribute('href')).toBe('/guide/cut-lists')
    await page.keyboard.press('Escape')
  })
})
