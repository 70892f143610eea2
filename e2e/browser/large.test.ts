/** A list of 5,000 originals: every row can be reached, and only those in sight are on the page. */
import { linkSync } from 'node:fs'
import type { ProjectRow } from '@naranja/contract'
import { ClipEntity, type ClipRecord } from '@naranja/server/records'
import { openStore } from '@naranja/server/store'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { formatFrames, rate } from '@naranja/core/time'
import { emptyFolder, importText, makeClip, projectOn, type Running, startInstance } from '../support.ts'
import { openBrowser, seriousFindings } from './support.ts'

const media = emptyFolder('large media')
const rows = 5000
const nameOf = (n: number): string => `A${String(Math.floor(n / 50)).padStart(4, '0')}C${String(n % 50).padStart(3, '0')}.mov`
let app: Running
let browser: Browser
let page: Page
let project: ProjectRow

beforeAll(async () => {
  await makeClip(`${media}/A0000C000.mov`, { code: 1, frames: 25, timecode: '10:00:00:00' })
  app = await startInstance('large', media)
  project = (await projectOn(app.client, media)).project
  // Their files stand on the disk: clips without one are gone as soon as the folder is looked at again.
  for (let n = 1; n < rows; n++) linkSync(`${media}/A0000C000.mov`, `${media}/${nameOf(n)}`)
  const db = await openStore(app.instance.config)
  const repo = db.getRepository(ClipEntity)
  const [model] = await repo.find()
  if (!model) throw new Error('the model clip was not taken in')
  for (let i = 1; i < rows; i += 500) {
    const list = Array.from({ length: Math.min(500, rows - i) }, (_, k): ClipRecord => {
      const n = i + k
      const name = nameOf(n)
      return {
        ...model,
        id: `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`,
        path: Buffer.from(name),
        pathHash: String(n).padStart(40, '0'),
        name,
        place: `${name.slice(0, 5)}/${name}`,
        roll: name.slice(0, 5),
        contentId: `c${n}`,
        start: n * 100,
      }
    })
    await repo.insert(list as never)
  }
  await db.destroy()
  // What the application has worked out from half of them meanwhile counts no more.
  const edits = [{ clipId: model.id, field: 'notes', before: null, value: 'the first of many' }]
  await app.client.askAnything('describe', { projectId: project.id, edits })
  ;({ browser, page } = await openBrowser(app))
  await page.goto(`${app.instance.address}/p/${project.id}/originals`)
})
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

const table = () => page.getByRole('grid', { name: 'Originals' })
const drawn = () => table().getByRole('row').count()

describe('a list of 5,000 originals', () => {
  it('is whole', async () => {
    expect((await app.client.ask('clips', { projectId: project.id, limit: 1 })).total).toBe(rows)
    await page.getByText('5,000 clips on').waitFor()
    await table().getByRole('row').nth(5).waitFor()
    expect(await table().getAttribute('aria-rowcount')).toBe(String(rows + 1))
  })

  it('goes to its end by one key, drawing only what is in sight', async () => {
    const list = page.getByLabel('Originals, arrow keys choose')
    await list.focus()
    // Pages come one after another; the end is the end once all are there.
    await page.waitForFunction(() => (document.querySelector('[aria-label="Originals, arrow keys choose"]')?.scrollHeight ?? 0) > 5000 * 52)
    await page.keyboard.press('End')
    // The one real clip stands on a roll of its own, named after its folder: the last.
    await page.getByRole('complementary', { name: 'Clip A0000C000.mov' }).waitFor()
    await table().getByText('A0099C049.mov').waitFor()
    expect(await drawn()).toBeLessThan(60)
    await page.keyboard.press('Home')
    await page.getByRole('complementary', { name: 'Clip A0000C001.mov' }).waitFor()
    await table().getByText('A0000C001.mov').waitFor()
    expect(await drawn()).toBeLessThan(60)
  })

  it('shows rows wherever it is scrolled to', async () => {
    const box = page.getByLabel('Originals, arrow keys choose')
    for (const share of [0.5, 0.1, 0.93]) {
      const seen = await box.evaluate(async (e, s) => {
        e.scrollTop = e.scrollHeight * s
        await new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r)))
        const top = e.getBoundingClientRect()
        return [...e.querySelectorAll('[role=row]')].filter((r) => {
          const b = r.getBoundingClientRect()
          return b.bottom > top.top && b.top < top.bottom
        }).length
      }, share)
      expect(seen).toBeGreaterThan(7)
    }
  })

  it('is narrowed by typing', async () => {
    await page.getByRole('searchbox', { name: 'Search originals' }).fill('A0042C01')
    await table().getByText('A0042C019.mov').waitFor()
    expect(await table().getAttribute('aria-rowcount')).toBe('11')
  })
})

describe('a batch of 5,000 copies', () => {
  it('is set going and cancelled in whole, every row saying so', async () => {
    const { client } = app
    const [volume] = (await client.ask('volumes', {})).filter((v) => v.path === media)
    await client.ask('pause', { paused: true })
    const ask = { specs: ['h264-proxy-720'], volumeId: volume?.id, folder: 'copies' }
    const started = await client.ask('makeCopies', { projectId: project.id, ...ask })
    expect(new Set(started.taskIds).size).toBe(rows)
    const batch = async () => (await client.ask('queue', { projectId: project.id })).batches.find((b) => b.id === started.batchId)
    expect(await batch()).toMatchObject({ tasks: rows, finished: 0, active: true })
    await page.goto(`${app.instance.address}/p/${project.id}/copies`)
    await page.getByText(`${rows} of ${rows} clips have none`).waitFor()
    const table = page.getByRole('table', { name: 'State of every clip' })
    await table.getByText('waiting').first().waitFor()
    await page.goto(`${app.instance.address}/p/${project.id}/queue`)
    await page.getByText('held, 5,000 to go').waitFor()
    // What is being made already is not made twice.
    await expect(client.ask('makeCopies', { projectId: project.id, ...ask })).rejects.toThrow(/its copy is being made, and 4999 more/)
    await page.getByRole('button', { name: 'Cancel batch' }).click()
    await page.getByText('5000 of 5000 ended').waitFor()
    const states = (await client.ask('copies', project.id)).map((c) => c.state)
    expect([states.length, new Set(states)]).toEqual([rows, new Set(['cancelled'])])
    await client.ask('pause', { paused: false })
    await new Promise((r) => setTimeout(r, 500))
    expect(await batch()).toMatchObject({ finished: rows, failed: 0, active: false })
    // Whoever waits for the batch is given all of it.
    expect(await client.finish(started)).toHaveLength(rows)
  })
})

describe('a cut of a thousand events', () => {
  it('folds the rolls that are settled, and shows what is not found by its reels and alone', async () => {
    const clip = (i: number) => 1 + ((i * 7) % (rows - 1))
    const lines = Array.from({ length: 1000 }, (_, i) => {
      const [n, lost] = [clip(i), i % 40 === 39]
      const name = nameOf(n)
      const [reel, from, at] = lost ? [i % 80 === 79 ? 'Z8' : 'Z9', 20 * 90_000, i * 20] : ['AX', n * 100 + 2, i * 20]
      const event = `${String(i + 1).padStart(4, '0')}  ${reel}       V     C        ${[from, from + 20, at, at + 20].map((f) => formatFrames(f, rate(25))).join(' ')}`
      return lost ? event : `${event}\n* FROM CLIP NAME: ${name}`
    })
    const { cut } = await importText(app.client, project.id, ['TITLE: LONG', 'FCM: NON-DROP FRAME', ...lines].join('\n'), 'long.edl')
    await page.goto(`${app.instance.address}/p/${project.id}/reconnect/${cut.id}`)
    const chart = page.getByRole('img', { name: /^Cut strip and day chart: 1,000 events land on 1 lane; 25 events are wanted/ })
    await chart.waitFor()
    await page.getByRole('button', { name: '101 settled rolls folded' }).click()
    await page.getByRole('img', { name: /1,000 events land on 101 lanes/ }).waitFor()
    await page.getByRole('button', { name: 'Fold 101 settled rolls' }).click()
    await chart.waitFor()
    // The boxes of what is wanted come first: the larger of the two reels.
    const box = await chart.boundingBox()
    if (!box) throw new Error('no chart')
    await page.mouse.click(box.x + 130, box.y + box.height - 6 - 17 - 4 - 10)
    await page.getByText('Event 0040 on V1: not found').waitFor()
    await page.getByRole('button', { name: '25 not found' }).click()
    await page.getByRole('radio', { name: 'List' }).click()
    await page.locator('[role=table][aria-rowcount="26"]').waitFor()
    expect(await seriousFindings(page)).toEqual([])
  })
})
