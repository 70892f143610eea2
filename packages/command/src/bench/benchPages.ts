/** Figures of pages in the browser: how quick they answer hands. */
import { type Browser, chromium, type Page } from 'playwright'
import { type Figure, median } from './benchTools.ts'
import { Instance } from '../instance/index.ts'
import { say, step } from '../base/index.ts'

async function onPage<T>(instance: Instance, act: (page: Page) => Promise<T>): Promise<T> {
  let browser: Browser | null = null
  try {
    browser = await chromium.launch({ executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] })
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage()
    await page.goto(await Instance.addressOf(instance.config))
    return await act(page)
  } finally {
    await browser?.close()
  }
}

/** Script time of a drawn frame of the day chart, in ms, while the 10,000 clips of a project are zoomed through. */
export const dayChart = (instance: Instance, projectId: string): Promise<Figure> =>
  onPage(instance, async (page) => {
    await page.goto(`${instance.address}/p/${projectId}/originals?view=chart`)
    const canvas = page.getByRole('img', { name: /Day chart/ })
    await canvas.waitFor()
    await page.waitForTimeout(2000)
    const box = await canvas.boundingBox()
    if (!box) throw new Error('The day chart is not to be seen.')
    await page.mouse.move(box.x + box.width * 0.6, box.y + 100)
    const times: number[] = []
    let last = ''
    for (let i = 0; i < 160; i++) {
      // In for the first half, out for the second.
      await page.mouse.wheel(0, i < 80 ? -120 : 120)
      await page.evaluate(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(r))))
      const drawn = (await canvas.getAttribute('data-drawn')) ?? ''
      if (drawn && drawn !== last) times.push(Number(drawn))
      last = drawn
    }
    if (times.length < 40) throw new Error(`Only ${times.length} frames were drawn.`)
    return {
      name: `script time of a drawn frame of the day chart, 10,000 clips in motion, median of ${times.length}, in ms`,
      value: median(times),
      goal: 8,
      unit: 'ms',
    }
  })

/** What hands do in Reconnect: a key on the page or on its chart, or something pressed. */
const moves: readonly { readonly name: string; readonly key?: string; readonly chart?: boolean; readonly press?: string }[] = [
  { name: 'the next open event', key: 'n' },
  { name: 'the next event', key: 'ArrowRight', chart: true },
  { name: 'zooming out', key: '-', chart: true },
  { name: 'zooming in', key: '+', chart: true },
  { name: 'one roll alone', key: 'ArrowDown', chart: true },
  { name: 'all rolls again', key: 'Escape', chart: true },
  { name: 'one state alone, and all again', press: 'button[title="Only what is not found"]' },
  { name: 'the last frame', key: 'l' },
  { name: 'the middle frame', key: 'm' },
]

/** By how many milliseconds the slowest move in Reconnect is slower with the longer of two cuts, until it is drawn. */
export const reconnectMoves = (instance: Instance, projectId: string, few: string, many: string): Promise<{ name: string; value: number }> =>
  onPage(instance, async (page) => {
    const taken = async (cutId: string): Promise<Map<string, number>> => {
      step('Moving about in Reconnect')
      await page.goto(`${instance.address}/p/${projectId}/reconnect/${cutId}`)
      await page.getByText(/^Event \d+ on V1: /).waitFor({ timeout: 60_000 })
      await page.waitForTimeout(3000)
      const times = new Map<string, number[]>()
      for (let round = 0; round < 12; round++)
        for (const move of moves) {
          const ms = await page.evaluate(
            ({ key, chart, press }) =>
              new Promise<number>((done, fail) => {
                const target = press ? document.querySelector<HTMLElement>(press) : chart ? document.querySelector('canvas') : document.body
                if (!target) return fail(new Error(`There is no ${press ?? 'chart'} on the page.`))
                const began = performance.now()
                if (press) (target as HTMLElement).click()
                else target.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
                // Drawn in the frame that follows, and shown with the one after it.
                requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(() => done(performance.now() - began))))
              }),
            move,
          )
          // The first rounds meet a page that has just begun.
          if (round >= 3) times.set(move.name, [...(times.get(move.name) ?? []), ms])
        }
      return new Map([...times].map(([name, list]) => [name, median(list)]))
    }
    const [short, long] = [await taken(few), await taken(many)]
    let worst = { name: '', value: 0 }
    for (const [name, ms] of long) {
      const value = ms - (short.get(name) ?? 0)
      say(`        ${ms.toFixed(0).padStart(5)} ms, ${value.toFixed(0)} more  ${name}, on the page`)
      if (value > worst.value) worst = { name: `${name}, on the page`, value }
    }
    return worst
  })
