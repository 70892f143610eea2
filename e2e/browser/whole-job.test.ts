/** The whole job in a browser, on real media, from the first screen to the checked master, every frame of it read. */
import { existsSync, mkdirSync, readdirSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { dataFolder, font } from '@naranja/command/paths'
import type { ProjectRow } from '@naranja/contract'
import { fit as placed } from '@naranja/core/framing'
import { sourceFrame, stepOf } from '@naranja/core/time'
import { awayVolume, cameras, cutRate, type DemoClip, demoClips, demoReader, makeDemoMedia, moveAwayCard, trueEvents } from '@naranja/demo'
import { inputArgs, output } from '@naranja/media'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readCodes, type Running, startInstance, until, noticed } from '../support.ts'
import { choosePlace, codeOf, openBrowser, playedFrames, seriousFindings } from './support.ts'

const shrink = 4
const raster = { width: 960, height: 540 }
const folder = join(dataFolder, 'test files', 'browser media')
const volumes = join(folder, 'volumes')
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow

beforeAll(async () => {
  mkdirSync(folder, { recursive: true })
  await moveAwayCard(volumes, false).catch(() => undefined)
  await makeDemoMedia({ folder, font, shrink })
  for (const made of ['Edit copies', 'Pulls', 'Masters']) rmSync(join(volumes, 'Quay drive', made), { recursive: true, force: true })
  app = await startInstance('browser', volumes, demoReader(volumes))
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const size = (c: DemoClip) => ({ width: cameras[c.camera].width / shrink, height: cameras[c.camera].height / shrink })
const step = (name: string) => page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name })
const pathOf = (c: DemoClip) => join(volumes, c.volume, c.folder, c.camera === 'telescope' ? `${c.name}1001.dng` : c.name)
const findings: string[] = []
const look = async (name: string) => {
  findings.push(...(await seriousFindings(page)).map((f) => `${name}: ${f}`))
}

describe('one morning', () => {
  it('begins with a project', async () => {
    await page.goto(app.instance.address)
    await look('welcome')
    await page.getByLabel('Name').fill('The Salt Ferry')
    await page.getByLabel('Frame rate').fill('25')
    await page.getByRole('button', { name: 'Start project' }).click()
    await page.getByText('Begin with the originals').waitFor()
    await page.getByRole('dialog', { name: 'Add originals' }).waitFor()
    await page.keyboard.press('Escape')
    await look('empty originals')
    const [only] = await app.client.ask('projects')
    project = only as ProjectRow
  })

  it('takes the originals in', async () => {
    await page.getByRole('button', { name: 'Add originals' }).first().click()
    const dialog = page.getByRole('dialog', { name: 'Add originals' })
    for (const v of ['Card A003', 'Card B001', 'Deck card 1', 'Deck card 2']) await dialog.getByLabel(`All of ${v}`).check()
    await dialog
      .getByRole('list', { name: 'Volumes' })
      .getByRole('button', { name: /Quay drive/ })
      .click()
    for (const f of ['Day 1', 'Day 2', 'Sound']) await dialog.getByLabel(f, { exact: true }).check()
    await look('add originals')
    await dialog.getByRole('button', { name: 'Add originals' }).click()
    await page.getByText(/35 clips on 10 rolls/).waitFor()
    await until('every notice', async () => (await app.client.ask('clips', { projectId: project.id, ...noticed('same-name') })).total === 6)
    await look('originals')
  })

  /** Searches, and waits until the list is that of the search: rows of the one before move away under a click. */
  const narrowed = async (text: string) => {
    await page.getByRole('searchbox', { name: 'Search originals' }).fill(text)
    await page.waitForFunction(() => document.querySelector('[role=grid]')?.getAttribute('aria-rowcount') === '2')
  }
  it('steps a clip frame by frame, each still the exact one', async () => {
    await narrowed('B001C003')
    await page.getByRole('row', { name: /B001C003/ }).click()
    const picture = page.getByRole('region', { name: /B001C003.*picture/ })
    const clip = demoClips.find((c) => c.name.startsWith('B001C003')) as DemoClip
    const still = picture.getByTestId('still')
    const shown = async (frame: number) => {
      await picture.getByText(`frame ${frame} of ${clip.frames}`).waitFor()
      await page.waitForFunction((f) => {
        const i = document.querySelector<HTMLImageElement>('[data-testid=still]')
        return i?.src.includes(`frame=${f}&`) && i.complete && i.naturalWidth > 0
      }, frame)
      expect(await codeOf(still)).toEqual({ clip: clip.code, frame })
    }
    await shown(65)
    await picture.focus()
    for (const [key, frame] of [
      ['ArrowRight', 66],
      ['ArrowRight', 67],
      ['ArrowLeft', 66],
      ['Home', 0],
      ['End', clip.frames - 1],
      ['ArrowLeft', clip.frames - 2],
    ] as const) {
      await page.keyboard.press(key)
      await shown(frame)
    }
  })

  it('plays a codec that browsers cannot play, naming every frame right', async () => {
    await narrowed('A001C002')
    await page.getByRole('row', { name: /A001C002/ }).click()
    const picture = page.getByRole('region', { name: /A001C002.*picture/ })
    await picture.focus()
    await page.keyboard.press('Home')
    await picture.getByText('frame 0 of 92').waitFor()
    const frames = playedFrames(page, 12)
    await picture.getByRole('button', { name: 'Play' }).click()
    const code = (demoClips.find((c) => c.name.startsWith('A001C002')) as DemoClip).code
    const played = await frames
    expect(played.map((f) => f.seen?.clip)).toEqual(played.map(() => code))
    expect(played.map((f) => f.named)).toEqual(played.map((f) => f.seen?.frame))
    expect(new Set(played.map((f) => f.named)).size).toBeGreaterThan(6)
    await page.keyboard.press('k')
    await page.getByRole('searchbox', { name: 'Search originals' }).fill('')
  })

  it('sets the raster of the finished picture', async () => {
    await step('Settings').click()
    await page.getByLabel('Width').fill(String(raster.width))
    await page.getByLabel('Height').fill(String(raster.height))
    await page.getByRole('button', { name: 'Save settings' }).click()
    await page.getByText('The settings are saved.').waitFor()
    await look('settings')
  })

  it('makes proxies in the background, a worker killed in the middle', async () => {
    await step('Edit copies').click()
    await page
      .getByRole('complementary', { name: 'H.264 proxy 720' })
      .getByText(/^about \d+ (s|min)/)
      .waitFor()
    await choosePlace(page, 'Copies go to', 'Quay drive')
    await look('edit copies')
    await page.getByRole('button', { name: 'Make 30 edit copies' }).click()
    await page.getByText('Making 30 edit copies.').waitFor()
    await page.getByRole('cell', { name: 'checked' }).first().waitFor()
    process.kill(app.instance.pid('worker') as number, 'SIGKILL')
    await step('Queue').click()
    await page
      .getByRole('region', { name: /H.264 proxy 720: 30 clips/ })
      .getByRole('progressbar')
      .first()
      .waitFor()
    await look('queue')
    await page.getByText('30 of 30 ended').waitFor({ timeout: 240_000 })
    await step('Edit copies').click()
    await page.getByText('all 30 clips have one').waitFor()
    const files = readdirSync(join(volumes, 'Quay drive', 'Edit copies'), { recursive: true, withFileTypes: true }).filter((f) => f.isFile())
    expect(files.map((f) => f.name).filter((f) => !f.endsWith('.mov'))).toEqual([])
    expect(files).toHaveLength(30)
  })

  it('shows proxies everywhere with one key, and names them', async () => {
    await step('Originals').click()
    await page.getByRole('row', { name: /A001C001/ }).click()
    await page.getByRole('heading', { name: 'Originals' }).click()
    // Nobody has an intermediate: that kind is skipped. What there is is told with the sums of the project.
    await page.getByRole('navigation', { name: 'Steps' }).getByText('30/30').waitFor()
    await page.keyboard.press('v')
    const picture = page.getByRole('region', { name: /A001C001.*picture/ })
    await picture.getByText('proxy', { exact: true }).waitFor()
    const still = picture.getByTestId('still')
    await until('the proxy’s picture', async () => (await still.getAttribute('src'))?.includes('viewing=proxies'))
    await page.waitForFunction(() => document.querySelector<HTMLImageElement>('[data-testid=still]')?.complete)
    expect(await codeOf(still)).toEqual({ clip: 1, frame: 42 })
  })

  it('brings the cut in, with its reference', async () => {
    await step('Cut lists').click()
    await page.getByText('Bring in the edit').waitFor()
    await page.getByRole('button', { name: 'Import cut list' }).first().click()
    const dialog = page.getByRole('dialog', { name: 'Import cut list' })
    await dialog
      .getByRole('list', { name: 'Volumes' })
      .getByRole('button', { name: /Quay drive/ })
      .click()
    await dialog.getByRole('button', { name: 'Cut', exact: true }).click()
    await dialog.getByLabel('ferry_cut_3.edl').check()
    await look('import cut list')
    await dialog.getByRole('button', { name: 'Import cut list' }).click()
    await page.getByText('55 events, 00:00:50:07 at 25 fps').waitFor()
    await page.getByRole('button', { name: 'Choose reference' }).click()
    const second = page.getByRole('dialog', { name: 'Choose reference' })
    await second
      .getByRole('list', { name: 'Volumes' })
      .getByRole('button', { name: /Quay drive/ })
      .click()
    await second.getByRole('button', { name: 'Cut', exact: true }).click()
    await second.getByLabel('ferry_cut_3_reference.mov').check()
    await second.getByRole('button', { name: 'Use this movie' }).click()
    await page.getByText('The reference is chosen.').waitFor()
    await page.getByRole('row', { name: /V1 010/ }).click()
    await page.getByText('Event 010 on V1').waitFor()
    await look('cut lists')
    await page.getByRole('radio', { name: 'Text and problems' }).click()
    await page.getByText('TITLE: FERRY CUT 3').waitFor()
    await look('cut text')
  })

  it('plays the cut with what the viewing switch says', async () => {
    await page.getByRole('radio', { name: 'Events' }).click()
    await page.getByRole('row', { name: /V1 003/ }).click()
    const event = trueEvents[2]
    const picture = page.getByRole('region', { name: /picture, arrow keys/ })
    await picture.getByText(`frame ${event?.in} of 1257`).waitFor()
    await picture.getByText('proxy', { exact: true }).waitFor()
    const frames = playedFrames(page, 12)
    await picture.getByRole('button', { name: 'Play' }).click()
    for (const f of await frames) {
      if (f.named >= (event?.out ?? 0)) continue
      expect(f.seen).toEqual({ clip: event?.clip?.code, frame: (event?.first ?? 0) + f.named - (event?.in ?? 0) })
    }
    await picture.getByRole('button', { name: 'Stop' }).click()
  })

  it('reconnects: says what is certain, and has the rest told by its pictures, and is confirmed by key', async () => {
    await step('Reconnect').click()
    await page.getByText('43 certain').waitFor()
    // What nothing tells apart is told by the edit's own pictures, without a hand.
    await page.getByText('9 likely').waitFor({ timeout: 180_000 })
    await look('reconnect')
    await page.getByRole('radio', { name: 'List' }).click()
    const told = trueEvents.filter((e) => e.clip?.camera === 'deck' && ['CLIP0001', 'CLIP0002', 'CLIP0003'].some((n) => e.clip?.name.startsWith(n)))
    expect(told).toHaveLength(5)
    for (const e of told) {
      const name = String(e.number).padStart(3, '0')
      await page.getByRole('row', { name: new RegExp(`V1 ${name}`) }).click()
      await page.getByText(`Event ${name} on V1: likely`).waitFor()
      await page
        .getByText(/its pictures are \d+ % like the edit's, those of the next \d+ %/i)
        .first()
        .waitFor()
      await page
        .getByRole('list', { name: 'Candidates' })
        .getByRole('listitem')
        .first()
        .getByText(e.clip?.volume ?? '')
        .waitFor()
    }
    await page.keyboard.press('c')
    await page.getByText('5 confirmed').waitFor()
    await page.getByRole('button', { name: '1 not found' }).click()
    await page.getByText('Event 031 on V1: not found').waitFor()
    await page
      .getByText(/No original is called A005C001_261109_SF.mp4 and none is on reel A005/)
      .first()
      .waitFor()
    await page.getByRole('button', { name: '4 likely' }).click()
    await page.getByRole('button', { name: 'Confirm all 4 likely' }).click()
    await page.getByText('9 confirmed').waitFor()
    await page.keyboard.press('Control+z')
    await page.getByRole('button', { name: '4 likely' }).click()
    await page.getByRole('button', { name: 'Confirm all 4 likely' }).click()
    await page.getByText('9 confirmed').waitFor()
    await look('reconnect list')
  })

  it('measures the whole cut against its reference', async () => {
    await page.getByRole('radio', { name: 'Likeness' }).click()
    await page.getByRole('button', { name: 'Measure the cut' }).click()
    await page.getByText(/events measured, none shifted/).waitFor({ timeout: 240_000 })
    await page.getByRole('img', { name: /Likeness along the cut/ }).waitFor()
    await look('likeness along the cut')
    await page.getByRole('radio', { name: 'List' }).click()
  })

  it('sees a card go and come back, everywhere, by itself', async () => {
    await moveAwayCard(volumes, true)
    await page.getByText('1 away').waitFor()
    await moveAwayCard(volumes, false)
    await page.getByText('1 away').waitFor({ state: 'detached' })
    expect(existsSync(join(volumes, awayVolume))).toBe(true)
  })

  it('plans the conform and makes its pulls', async () => {
    await step('Conform').click()
    await page
      .getByText(/handles of 10 and 12; 12 were asked for/)
      .first()
      .waitFor()
    await page.getByText('2 events cannot be rendered yet').waitFor()
    await page.getByRole('slider', { name: /Handles/ }).fill('4')
    await page.getByText('Handles: 4 frames at either end').waitFor()
    await choosePlace(page, 'Folder', 'Quay drive')
    await look('conform')
    await page.getByRole('button', { name: /^Make \d+ pulls/ }).click()
    await page.getByText(/Making \d+ pulls\.$/).waitFor()
    const count = Number(/\d+/.exec((await page.getByRole('button', { name: /^Make \d+ pulls/ }).textContent()) ?? '')?.[0])
    await until(
      'the pulls',
      async () => (await page.getByRole('complementary', { name: 'Pulls' }).getByText(String(count), { exact: true }).count()) >= 2,
      180_000,
    )
  })

  it('refuses a master that would lack an original, and renders it once placeholders may stand', async () => {
    await step('Masters').click()
    await page.getByText('2 events of 55 cannot come from their original.').waitFor()
    const render = page.getByRole('button', { name: 'Render master' })
    expect(await render.isDisabled()).toBe(true)
    await look('masters before')
    await page.getByLabel(/Let 2 placeholders stand/).check()
    await choosePlace(page, 'Folder', 'Quay drive')
    await render.click()
    await page.getByText('Checked: it is what the cut says').waitFor({ timeout: 240_000 })
    await page.getByText('1,257 frames, as planned').waitFor()
    await look('masters proof')
  })

  it('is right in every frame', async () => {
    const [master] = await app.client.ask('masters', project.id)
    const codes = await readCodes(master?.path ?? '', raster, [...Object.values(cameras).map((c) => ({ width: c.width, height: c.height })), raster])
    expect(codes).toHaveLength(trueEvents.at(-1)?.out ?? 0)
    const placeholders = new Map<number, number>()
    for (const e of trueEvents) {
      for (let f = e.in; f < e.out; f++) {
        const got = codes[f]
        const k = f - e.in
        if (k < e.dissolve) continue
        if (e.black) expect([f, got]).toEqual([f, null])
        else if (!e.clip || e.clip.name.startsWith('A005')) {
          expect([f, got?.frame]).toEqual([f, k])
          placeholders.set(e.number, got?.clip ?? -1)
        } else expect([f, got]).toEqual([f, { clip: e.clip.code, frame: sourceFrame(e.first, k, stepOf(cameras[e.clip.camera].rate, cutRate)) }])
      }
    }
    expect([...placeholders.keys()]).toEqual([1, 31])
    expect([...placeholders.values()].every((c) => c >= 512)).toBe(true)
  })

  it('has dissolves that are the computed mix, frame by frame', async () => {
    const [master] = await app.client.ask('masters', project.id)
    const n = raster.width * raster.height
    const picture = async (c: DemoClip | null, frame: number): Promise<Uint8Array> => {
      if (!c) return new Uint8Array(n)
      const p = placed(size(c), raster)
      return output('ffmpeg', [
        '-v',
        'error',
        ...inputArgs({ path: Buffer.from(pathOf(c)), sequence: null, rate: cameras[c.camera].rate }, frame),
        '-frames:v',
        '1',
        '-vf',
        `scale=${p.width}:${p.height}:flags=bicubic,format=yuv422p10le,pad=${raster.width}:${raster.height}:${p.x}:${p.y}`,
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        '-',
      ])
    }
    const made = async (f: number) =>
      output('ffmpeg', [
        '-v',
        'error',
        ...inputArgs({ path: Buffer.from(master?.path ?? ''), sequence: null, rate: cutRate }, f),
        '-frames:v',
        '1',
        '-pix_fmt',
        'gray',
        '-f',
        'rawvideo',
        '-',
      ])
    let compared = 0
    for (const [i, e] of trueEvents.entries()) {
      const before = trueEvents[i - 1]
      if (!e.dissolve || !before?.clip) continue
      for (let k = 0; k < e.dissolve; k += 3) {
        const [a, b, got] = await Promise.all([
          picture(before.clip, sourceFrame(before.first, before.out - before.in + k, stepOf(cameras[before.clip.camera].rate, cutRate))),
          picture(e.clip, e.first + k),
          made(e.in + k),
        ])
        const share = (k + 1) / (e.dissolve + 1)
        let sum = 0
        for (let p = 0; p < n; p++) sum += ((a[p] ?? 0) * (1 - share) + (b[p] ?? 0) * share - (got[p] ?? 0)) ** 2
        expect([e.number, k, Math.sqrt(sum / n) < 3]).toEqual([e.number, k, true])
        compared++
      }
    }
    expect(compared).toBeGreaterThan(8)
  })

  it('had every event where the editing program had it', async () => {
    const [cut] = await app.client.ask('cuts', project.id)
    const links = await app.client.ask('links', cut?.id)
    const clips = new Map((await app.client.ask('clips', { projectId: project.id })).rows.map((c) => [c.id, c.file]))
    for (const e of trueEvents) {
      const l = links.find((x) => x.eventId.endsWith(`/V1/${String(e.number).padStart(3, '0')}`))
      if (!e.clip || e.clip.name.startsWith('A005')) continue
      expect([e.number, clips.get(l?.clipId ?? ''), l?.range?.in]).toEqual([e.number, pathOf(e.clip), e.first])
    }
  })

  it('had no serious finding by axe on any screen, and no error in the browser', () => {
    expect(findings).toEqual([])
    expect(errors.filter((e) => !/ERR_|Failed to load resource/.test(e))).toEqual([])
  })
})

describe('hands on the keyboard', () => {
  it('go to any step, and do anything by its name', async () => {
    await page.keyboard.press('Alt+1')
    await page.getByRole('heading', { name: 'Originals' }).waitFor()
    await page.keyboard.press('Control+k')
    await page.keyboard.type('Make edit')
    await page.keyboard.press('Enter')
    await page.getByRole('heading', { name: 'Edit copies' }).waitFor()
    await page.keyboard.press('Control+k')
    await page.keyboard.type('moon')
    await page.getByRole('option', { name: /moon_/ }).waitFor()
    await page.keyboard.press('ArrowDown')
    await page.keyboard.press('Enter')
    await page.getByRole('complementary', { name: /Clip moon_/ }).waitFor()
    await page.keyboard.press('?')
    await page.getByRole('dialog', { name: 'Keys' }).waitFor()
    await page.keyboard.press('Escape')
  })
  it('walk the list of originals', async () => {
    const list = page.getByLabel('Originals, arrow keys choose')
    await list.focus()
    await page.keyboard.press('Home')
    await page.getByRole('complementary', { name: 'Clip A001C001_261108_SF.mp4' }).waitFor()
    await page.keyboard.press('ArrowDown')
    await page.getByRole('complementary', { name: 'Clip A001C002_261108_SF.mp4' }).waitFor()
    await page.keyboard.press('End')
    await page.getByRole('complementary', { name: /Clip moon_/ }).waitFor()
  })
})
