/** Originals described in a browser: notices mended, fields typed and pasted, filled by rule and from a table file, raw clips developed. */
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import { edgeBlocks, edgeCode, edgeStrip } from '@naranja/core/edgecode'
import { writeDng } from '@naranja/demo'
import { ffmpeg } from '@naranja/media'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance, until } from '../support.ts'
import { codeOf, focusOn, openBrowser, seriousFindings } from './support.ts'

const folder = emptyFolder('describe browser')
const media = join(folder, 'media')
const size = { width: 320, height: 180 }
let app: Running
let browser: Browser
let page: Page
let errors: string[]
let project: ProjectRow
const findings: string[] = []
const look = async (name: string) => {
  findings.push(...(await seriousFindings(page)).map((f) => `${name}: ${f}`))
}

/** A raw picture whose left half is grey and whose right half is red, with an edge code along its lower edge. */
function moon(frame: number): Buffer {
  const light = new Uint16Array(size.width * size.height * 3)
  const strip = edgeStrip(size.width, size.height)
  const blocks = edgeCode(50, frame)
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) {
      const coded = y >= strip.y && y < strip.y + strip.height && x >= strip.x && x < strip.x + strip.width
      const bit = coded && blocks[Math.floor(((x - strip.x) / strip.width) * edgeBlocks)]
      const [r, g, b] = coded ? (bit ? [0.9, 0.9, 0.9] : [0, 0, 0]) : x < size.width / 2 ? [0.18, 0.18, 0.18] : [0.3, 0.1, 0.1]
      for (const [c, v] of [r, g, b].entries()) light[(y * size.width + x) * 3 + c] = Math.round((v ?? 0) * 65_535)
    }
  return writeDng({ ...size, light, neutral: [0.5, 1, 0.7] })
}

beforeAll(async () => {
  for (const n of [1, 2, 3, 4]) await makeClip(join(media, `Day 1/A001/A001C00${n}.mov`), { code: n, frames: 25, timecode: `10:0${n}:00:00` })
  await makeClip(join(media, 'Day 1/Loose/take.mov'), { code: 5, frames: 25 })
  mkdirSync(join(media, 'Light'))
  const light = ['-vf', 'scale=160:90', '-c:v', 'libx264', '-preset', 'ultrafast', '-pix_fmt', 'yuv420p', '-timecode', '10:02:00:00']
  await ffmpeg(['-y', '-i', join(media, 'Day 1/A001/A001C002.mov'), ...light, join(media, 'Light/A001C002_proxy.mov')])
  writeFileSync(join(media, 'Day 1/A001/index.db'), 'left')
  mkdirSync(join(media, 'Day 2/Telescope'), { recursive: true })
  for (let f = 0; f < 5; f++) writeFileSync(join(media, `Day 2/Telescope/moon_${101 + f}.dng`), moon(f))
  app = await startInstance('describe-browser', media)
  ;({ project } = await projectOn(app.client, media))
  ;({ browser, page, errors } = await openBrowser(app))
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const button = (name: string | RegExp) => page.getByRole('button', { name })
const grid = () => page.getByRole('grid', { name: 'Originals' })
const row = (name: string | RegExp) => grid().getByRole('row', { name })
const press = async (...keys: string[]) => {
  for (const k of keys) await page.keyboard.press(k)
}
const clips = async () => (await app.client.ask('clips', { projectId: project.id })).rows
const told = async (name: string) => (await clips()).find((c) => c.name.startsWith(name))
const undone = async (what: RegExp) => {
  await press('Control+z')
  await page.getByText(what).first().waitFor()
}
const paste = (text: string) =>
  grid().evaluate((e, t) => {
    const data = new DataTransfer()
    data.setData('text/plain', t)
    e.dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
  }, text)

describe("the project's page", () => {
  it('says what to notice, offers the remedy, and takes it back', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}`)
    const notice = page.getByRole('list', { name: 'Notices' })
    const known = page.getByRole('list', { name: 'Information' })
    await known.getByText('1 clip is a light copy of another.').waitFor()
    await notice.getByText('2 clips carry no timecode.').waitFor()
    await page.getByText('Make intermediates and cut those').waitFor()
    await look('project')
    await known.getByRole('button', { name: 'Count as originals' }).click()
    await known.getByText('1 clip is a light copy of another.').waitFor({ state: 'hidden' })
    await undone(/Undone: A001C002_proxy\.mov counts as an original/)
    await known.getByText('1 clip is a light copy of another.').waitFor()
  })
  it('suggests what most clips are', async () => {
    const format = page.getByRole('region', { name: 'Rate and raster' })
    await format.getByText('6 of 6 clips in 320×180').waitFor()
    await format.getByRole('button', { name: 'Take that raster' }).click()
    await format.getByText('as most clips').nth(1).waitFor()
    await undone(/Undone: Changed the raster/)
  })
  it('leads to the clips concerned', async () => {
    await page.getByRole('listitem').filter({ hasText: 'carry no timecode' }).getByRole('link', { name: 'Show' }).click()
    await row(/take\.mov/).waitFor()
    expect(await grid().getAttribute('aria-rowcount')).toBe('3')
    expect(page.url()).toContain('notice=no-timecode')
    await page.goBack()
    await page.getByRole('heading', { name: 'Notices' }).waitFor()
  })
})

describe('fields', () => {
  it('are seen in a view of their own', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/originals`)
    await row(/A001C001/).waitFor()
    await button('Columns').click()
    await page.getByRole('group', { name: 'Views' }).getByRole('button', { name: 'Descriptions' }).click()
    await look('views')
    await press('Escape')
    await page.getByRole('columnheader', { name: 'Plain name' }).waitFor()
    // The focus goes back to where the views were opened, and stays wherever it is put after that.
    await page.waitForFunction(() => document.activeElement?.textContent?.includes('Columns') && !document.querySelector('[aria-label=Views]'))
  })
  it('are typed into by keyboard, one after another', async () => {
    // In another view the list is fetched in another order: keys lead somewhere once it is there.
    await row(/A001C001/).waitFor()
    await grid().focus()
    await press('Escape', 'Home', 'ArrowRight')
    await grid()
      .getByRole('row', { selected: true, name: /A001C001/ })
      .waitFor()
    await page.keyboard.type('12')
    await press('Enter')
    await page.keyboard.type('13')
    await press('Tab')
    await page.keyboard.type('4')
    await press('Enter')
    await until(
      'both typed',
      async () => (await told('A001C001'))?.scene === '12' && (await told('A001C002'))?.scene === '13' && (await told('A001C002'))?.take === '4',
    )
    await look('typing')
  })
  it('that somebody else changes while they are typed into stand against what is typed, and one of both is chosen', async () => {
    const scene = async () => (await told('A001C001'))?.scene
    for (const [said, mine, choice, then] of [
      ['77', '99', 'Put mine in its place', '99'],
      ['78', '12', 'Keep what stands there', '78'],
      ['78', '12', '', '12'],
    ] as const) {
      await grid().focus()
      await press('Escape', 'Home', 'ArrowRight')
      await page.keyboard.type(mine)
      const clip = await told('A001C001')
      if (choice)
        await app.client.askAnything('describe', {
          projectId: project.id,
          edits: [{ clipId: clip?.id, field: 'scene', before: clip?.scene ?? null, value: said }],
        })
      await press('Enter')
      if (choice) {
        await page.getByText(`it is now "${said}"`).waitFor()
        if (said === '77') await look('choice')
        await button(choice).click()
      }
      await until(`scene ${then}`, async () => (await scene()) === then)
      await row(new RegExp(`A001C001.*${then}`)).waitFor()
    }
  })
  it('that somebody else changed since are taken back only where that is wanted', async () => {
    const scene = async () => (await told('A001C001'))?.scene
    await grid().focus()
    await press('Escape', 'Home', 'ArrowRight')
    await page.keyboard.type('15')
    await press('Enter')
    await until('it is typed', async () => (await scene()) === '15')
    const edits = [{ clipId: (await told('A001C001'))?.id, field: 'scene', before: '15', value: '16' }]
    await app.stranger.askAnything('describe', { projectId: project.id, edits })
    await grid().focus()
    await press('Escape', 'Control+z')
    await page.getByText('The same has been changed since then: “Set the scene of A001C001.mov to 16.” Nothing was taken back.').waitFor()
    expect(await scene()).toBe('16')
    await look('taking back')
    await button('Take it back all the same').click()
    await until('it is taken back', async () => (await scene()) === '12')
  })
  it('are pasted a column at a time', async () => {
    await grid().focus()
    await press('Escape', 'Home', 'ArrowRight')
    await paste('7\t1\n8\t2\n9\t3\n')
    await page.getByText('Set scene and take of 3 clips.').first().waitFor()
    await row(/A001C003.*9.*3/).waitFor()
    await undone(/Undone: Set scene and take of 3 clips/)
    await until('as before', async () => (await told('A001C001'))?.scene === '12')
  })
  it('take one value for all that are chosen', async () => {
    await grid().focus()
    await press('Escape', 'Home', 'Shift+ArrowDown', 'Shift+ArrowDown', 'Shift+ArrowDown')
    await page.getByRole('group', { name: 'Chosen clips' }).getByText('4 clips chosen').waitFor()
    await press('ArrowRight', 'ArrowRight')
    await page.keyboard.type('left')
    await press('Control+Enter')
    await page.getByText('of 4 clips.').first().waitFor()
    expect((await clips()).filter((c) => c.take === 'left').length).toBe(4)
    await press('Escape')
  })
  it('are filled by rule once every value has been seen', async () => {
    await button('Fill by rule').first().click()
    const dialog = page.getByRole('dialog', { name: 'Fill by rule' })
    await dialog.getByLabel('Field to fill').selectOption({ label: 'camera' })
    await dialog.getByLabel('Part 1 of what').selectOption({ label: 'name of the file' })
    await dialog.getByLabel('Which part 1').selectOption({ label: 'letters or digits 1' })
    await dialog.getByRole('row', { name: /A001C001.*empty.*A.*from its name/ }).waitFor()
    await dialog.getByText('7 of 7 clips would change').waitFor()
    await look('fill by rule')
    await dialog.getByRole('button', { name: 'Fill camera' }).click()
    await page.getByText('Set camera of 7 clips.').first().waitFor()
    expect((await told('moon'))?.camera).toBe('moon')
    await undone(/Undone: Set camera of 7 clips/)
  })
  it('come from a table file, its columns as a person says', async () => {
    await button('Describe from a table file').click()
    const dialog = page.getByRole('dialog', { name: 'Describe from a table file' })
    const buffer = Buffer.from('Shot log\n\nName,Scene,Weather\nA001C003,21,fog\nnowhere,1,sun\n')
    await dialog.getByLabel('Table file').setInputFiles({ name: 'log.csv', mimeType: 'text/csv', buffer })
    await dialog.getByRole('row', { name: /A001C003.*found.*Scene: 21/ }).waitFor()
    await dialog.getByRole('row', { name: /nowhere.*not found/ }).waitFor()
    await dialog.getByLabel('Weather').selectOption({ label: 'fills notes' })
    await dialog.getByRole('row', { name: /A001C003.*Notes: fog/ }).waitFor()
    await look('table file')
    await dialog.getByRole('button', { name: 'Describe clips' }).click()
    await until('described', async () => (await told('A001C003'))?.notes === 'fog')
    await row(/A001C003.*21.*fog/).waitFor()
  })
})

describe('the list', () => {
  it('narrows to what is ticked, and to values', async () => {
    await grid().focus()
    await press('Escape', 'Home', ' ', 'ArrowDown', ' ')
    await until('ticked', async () => (await clips()).filter((c) => c.ticked).length === 2)
    await button('Filter').click()
    await page.getByLabel('Ticked', { exact: true }).check()
    await look('narrow')
    await press('Escape')
    await page.waitForFunction(() => document.querySelector('[role=grid]')?.getAttribute('aria-rowcount') === '3')
    await button('Show again what is not ticked').click()
    await page.waitForFunction(() => document.querySelector('[role=grid]')?.getAttribute('aria-rowcount') === '8')
  })
  it('keeps a view under a name, over a reload', async () => {
    await page.getByRole('columnheader', { name: 'Scene' }).getByRole('button').click()
    await button('Columns').first().click()
    await page.getByLabel('Name of this view').fill('By scene')
    await button('Keep view').click()
    await press('Escape')
    await page.reload()
    await button('By scene').waitFor()
    expect(await page.getByRole('columnheader', { name: 'Scene' }).getAttribute('aria-sort')).toBe('ascending')
  })
  it('accounts for every file of the folder', async () => {
    await page.getByRole('navigation', { name: 'Steps' }).getByRole('link', { name: 'Queue' }).click()
    const taken = page.getByRole('region', { name: /^Taking in/ })
    const heading = taken.getByRole('button').first()
    if ((await heading.getAttribute('aria-expanded')) === 'false') await heading.click()
    await taken.getByRole('button', { name: 'Show contents' }).click()
    const dialog = page.getByRole('dialog', { name: 'What the folder held' })
    await dialog.getByText('12 files, each accounted for').waitFor()
    await dialog.getByRole('row', { name: /moon_101\.dng 5 taken in/ }).waitFor()
    await dialog.getByRole('radio', { name: 'Skipped' }).click()
    await dialog.getByRole('row', { name: /index\.db.*left by other software/ }).waitFor()
    await look('account')
    await press('Escape')
  })
})

describe('the day chart', () => {
  it('is a view of its own: clips chosen in it by keys and pointer, from all days down to frames', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/originals?view=chart`)
    const chart = page.getByRole('img', { name: /Day chart: 7 clips/ })
    // Keys lead somewhere once the list is there too.
    await until('the first clip of the first lane', async () => {
      await chart.focus()
      await press('ArrowUp', 'ArrowUp', 'ArrowUp', 'ArrowLeft', 'ArrowLeft', 'ArrowLeft', 'ArrowLeft')
      return (await page.getByRole('complementary', { name: 'Clip A001C001.mov' }).count()) > 0
    })
    await press('ArrowRight')
    await page.getByRole('complementary', { name: 'Clip A001C002.mov' }).waitFor()
    const across = async () => (await page.getByText(/ across$/).textContent()) ?? ''
    const before = await across()
    await press('+', '+', '+')
    await until('closer', async () => (await across()) !== before)
    for (let n = 0; n < 12; n++) await press('+')
    await page.getByText('1 s across').waitFor()
    await press('Home')
    await page.getByText(before).waitFor()
    // The first lane's last clip, pointed at.
    const box = (await chart.boundingBox()) as { x: number; y: number; width: number; height: number }
    for (let x = box.width - 20; x > 140; x -= 6) {
      await chart.click({ position: { x, y: 36 } })
      if ((await page.getByRole('complementary', { name: 'Clip A001C004.mov' }).count()) > 0) break
    }
    await page.getByRole('complementary', { name: 'Clip A001C004.mov' }).waitFor()
    await look('day chart')
  })
})

describe('a raw clip', () => {
  const still = () => page.getByTestId('still')
  /** Red against blue in the left half, as the page shows it. */
  const colour = () =>
    still().evaluate((e) => {
      const i = e as HTMLImageElement
      const canvas = document.createElement('canvas')
      canvas.width = i.naturalWidth
      canvas.height = i.naturalHeight
      const g = canvas.getContext('2d') as CanvasRenderingContext2D
      g.drawImage(i, 0, 0)
      const [r = 0, gr = 0, b = 0] = g.getImageData(Math.round(i.naturalWidth / 4), Math.round(i.naturalHeight / 3), 1, 1).data
      return { r, g: gr, b }
    })
  /** The still after the address of the former one is gone. */
  const next = async (doing: () => Promise<unknown>) => {
    const before = await still().getAttribute('src')
    await doing()
    await page.waitForFunction((old) => {
      const i = document.querySelector<HTMLImageElement>('[data-testid=still]')
      return i && i.getAttribute('src') !== old && i.complete && i.naturalWidth > 0
    }, before)
  }

  it('is developed as it was shot: grey is grey, and its frames are the right ones', async () => {
    await page.goto(`${app.instance.address}/p/${project.id}/originals`)
    await row(/moon/).click()
    await page.getByRole('region', { name: 'Decode settings' }).waitFor()
    await page.waitForFunction(() => (document.querySelector<HTMLImageElement>('[data-testid=still]')?.naturalWidth ?? 0) > 0)
    expect(await codeOf(still())).toEqual({ clip: 50, frame: 2 })
    const c = await colour()
    expect(Math.abs(c.r - c.b)).toBeLessThan(5)
    // 0.18 of the light is 125 of 255 on a screen of BT.1886.
    expect(Math.abs(c.g - 125)).toBeLessThan(5)
    await look('raw')
  })
  it('is made brighter, and balanced by what a person points at; undo takes both back', async () => {
    const before = await colour()
    await focusOn(page.getByRole('slider', { name: 'Exposure' }))
    await next(() => press('ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowRight'))
    await until('brighter', async () => (await colour()).g > before.g + 10)
    await button('Point at a grey').click()
    const box = (await still().boundingBox()) as { x: number; y: number; width: number; height: number }
    // The red half, said to be grey, takes the red away everywhere.
    await next(() => page.mouse.click(box.x + box.width * 0.75, box.y + box.height * 0.4))
    await page.getByRole('radio', { name: 'a grey', checked: true }).waitFor()
    await until('red taken away', async () => {
      const c = await colour()
      return c.r < c.b - 40
    })
    await next(() => undone(/Undone: moon.*developed a picked grey/))
    for (let n = 0; n < 5 && (await told('moon'))?.shownAs; n++) {
      if ((await page.getByText("the project's settings").count()) > 0) break
      await undone(/Undone: moon/)
      await page.waitForTimeout(200)
    }
    await page.getByText("the project's settings").waitFor()
  })
})

it('without a serious finding of axe, and without an error', () => {
  expect(findings).toEqual([])
  // What somebody else changed meanwhile was refused, as it should be.
  expect(errors.filter((e) => !e.includes('409'))).toEqual([])
})
