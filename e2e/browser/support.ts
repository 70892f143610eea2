/** A real browser against the running application. */
import AxeBuilder from '@axe-core/playwright'
import type { Placement } from '@naranja/core/framing'
import { readEdgeCode } from '@naranja/core/edgecode'
import { Instance } from '@naranja/command/instance'
import { type Browser, type BrowserContext, chromium, type Locator, type Page } from 'playwright'
import { afterEach } from 'vitest'
import type { Running } from '../support.ts'

/** Makes the browser of a context known. */
export const letIn = async (context: BrowserContext, instance: Instance): Promise<void> =>
  void (await context.request.get(await Instance.addressOf(instance.config)))

const pages: Page[] = []
/** Where a test fails, what stood on the page is written down beside it. */
afterEach(async ({ task }) => {
  if (task.result?.state !== 'fail') return
  for (const p of pages) {
    if (p.isClosed()) continue
    const seen = await p.locator('body').ariaSnapshot({ timeout: 5000 })
    console.error(`${task.name}: on the page ${p.url()} stood:\n${seen.slice(0, 8000)}`)
  }
})

/** A browser, let in by an address as people are given one. */
export async function openBrowser({ instance }: Running): Promise<{ browser: Browser; page: Page; errors: string[] }> {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--autoplay-policy=no-user-gesture-required',
    ],
  })
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  await letIn(context, instance)
  const page = await context.newPage()
  pages.push(page)
  // As patient as `until`: a machine may stand still for half a minute when others are at work on it.
  page.setDefaultTimeout(60_000)
  const errors: string[] = []
  page.on('pageerror', (e) => errors.push(e.message))
  page.on('console', (m) => {
    if (m.type() === 'error') errors.push(m.text())
  })
  return { browser, page, errors }
}

/** Gives the focus to a control once it can be used: one that is still disabled, for what it shows is on its way, takes none. */
export async function focusOn(control: Locator): Promise<void> {
  await control.click({ trial: true })
  await control.focus()
}

/** Tab until the thing has the focus, as a person would, and see that its focus can be seen. */
export async function tabOn(page: Page, target: Locator): Promise<void> {
  await target.waitFor()
  for (let i = 0; i < 120; i++) {
    if (await target.evaluate((e) => e === document.activeElement)) {
      const seen = await target.evaluate((e) => {
        const s = getComputedStyle(e)
        return (s.outlineStyle !== 'none' && Number.parseFloat(s.outlineWidth) > 0) || s.boxShadow !== 'none'
      })
      if (!seen) throw new Error(`The focus on ${await target.evaluate((e) => e.outerHTML.slice(0, 80))} cannot be seen.`)
      return
    }
    await page.keyboard.press('Tab')
  }
  throw new Error(`${target} cannot be reached by Tab.`)
}

/** Pixels of an image or video on the page, as grey rows. */
async function grey(target: Locator): Promise<{ data: Uint8Array; width: number; height: number }> {
  const got = await target.evaluate((element) => {
    const e = element as HTMLImageElement | HTMLVideoElement
    const width = 'naturalWidth' in e ? e.naturalWidth : e.videoWidth
    const height = 'naturalHeight' in e ? e.naturalHeight : e.videoHeight
    const canvas = document.createElement('canvas')
    canvas.width = width
    canvas.height = height
    const g = canvas.getContext('2d') as CanvasRenderingContext2D
    g.drawImage(e, 0, 0)
    const pixels = g.getImageData(0, 0, width, height).data
    let text = ''
    for (let i = 0; i < width * height; i++) text += String.fromCharCode(pixels[i * 4 + 1] as number)
    return { text, width, height }
  })
  return { data: Uint8Array.from(got.text, (c) => c.charCodeAt(0)), width: got.width, height: got.height }
}

/** The edge code of a picture on the page. */
export async function codeOf(target: Locator, place?: (width: number, height: number) => Placement): Promise<{ clip: number; frame: number } | null> {
  const g = await grey(target)
  return readEdgeCode(g.data, g.width, place ? place(g.width, g.height) : { x: 0, y: 0, width: g.width, height: g.height })
}

/**
 * Frames that a playing video shows, each with the frame number that stands below it at that moment. At least eight, `count` where
 * the machine shows as many in half a minute.
 */
export async function playedFrames(page: Page, count: number): Promise<{ named: number; seen: { clip: number; frame: number } | null }[]> {
  const got = await page.evaluate(
    (n) =>
      new Promise<{ named: number; text: string; width: number; height: number }[]>((resolve, reject) => {
        const video = document.querySelector('video') as HTMLVideoElement
        const out: { named: number; text: string; width: number; height: number }[] = []
        const timer = setTimeout(() => (out.length >= 8 ? resolve(out) : reject(new Error(`only ${out.length} frames were played`))), 30_000)
        const canvas = document.createElement('canvas')
        const g = canvas.getContext('2d', { willReadFrequently: true }) as CanvasRenderingContext2D
        // The picture may move on while a callback runs: what it sees counts only if the next frame was given to the screen after
        // it was taken, and no frame in between went by unseen.
        let taken: { presented: number; drawn: number; named: number } | null = null
        const take = (_now: number, meta: VideoFrameCallbackMetadata) => {
          const before = taken
          taken = null
          if (before && meta.presentedFrames === before.presented + 1 && meta.presentationTime > before.drawn && before.named >= 0) {
            const pixels = g.getImageData(0, 0, canvas.width, canvas.height).data
            let text = ''
            for (let i = 0; i < canvas.width * canvas.height; i++) text += String.fromCharCode(pixels[i * 4 + 1] as number)
            out.push({ named: before.named, text, width: canvas.width, height: canvas.height })
            if (out.length >= n) {
              clearTimeout(timer)
              resolve(out)
              return
            }
            video.requestVideoFrameCallback(take)
            return
          }
          video.requestVideoFrameCallback(take)
          canvas.width = video.videoWidth
          canvas.height = video.videoHeight
          g.drawImage(video, 0, 0)
          const now = { presented: meta.presentedFrames, drawn: performance.now(), named: -1 }
          taken = now
          // Once every callback of this frame has run, the page has named it.
          setTimeout(() => {
            now.named = Number(/frame (\d+)/.exec(document.querySelector('[data-testid=frame]')?.textContent ?? '')?.[1] ?? -1)
          }, 0)
        }
        video.requestVideoFrameCallback(take)
      }),
    count,
  )
  return got.map((f) => ({
    named: f.named,
    seen: readEdgeCode(
      Uint8Array.from(f.text, (c) => c.charCodeAt(0)),
      f.width,
      { x: 0, y: 0, width: f.width, height: f.height },
    ),
  }))
}

/** What axe finds serious or critical on a screen, in a sentence each. */
export async function seriousFindings(page: Page): Promise<string[]> {
  const { violations } = await new AxeBuilder({ page }).analyze()
  return violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map(
      (v) =>
        `${v.id}: ${v.help} (${v.nodes
          .map((n) => n.target.join(' '))
          .slice(0, 3)
          .join('; ')}; ${v.nodes[0]?.failureSummary?.split('\n').slice(1, 2).join('')})`,
    )
}

/** Chooses a place to write to, by its group and the beginning of its name; one that is chosen already is changed. */
export async function choosePlace(within: Page | Locator, group: string, name: string): Promise<void> {
  const box = within.getByRole('group', { name: group })
  const change = box.getByRole('button', { name: 'Change' })
  const wanted = box.getByRole('button', { name: new RegExp(`^${name}( |$)`) })
  await change.or(wanted.first()).first().waitFor()
  if (await change.isVisible()) await change.click()
  await wanted.click()
}

/**
 * What hands do on a page, counted: each click, each key, each field that is typed into, each file that is picked. The page counts clicks by
 * itself as well, so that none can be made beside the count.
 */
export class Hands {
  private done = 0
  private clicks = 0
  private constructor(private readonly page: Page) {}

  /** Begins to count on a page, as it is now and wherever it goes. */
  static async on(page: Page): Promise<Hands> {
    await page.evaluate(() => {
      const w = window as { clicksMade?: number }
      const count = (e: Event) => {
        if (e.isTrusted) w.clicksMade = (w.clicksMade ?? 0) + 1
      }
      if (w.clicksMade === undefined) window.addEventListener('pointerdown', count, true)
      w.clicksMade = 0
    })
    return new Hands(page)
  }
  async click(target: Locator): Promise<void> {
    await target.click()
    this.done++
    this.clicks++
  }
  /** Types into a field; with `then`, a key after it. */
  async type(target: Locator, text: string, then?: string): Promise<void> {
    await target.fill(text)
    this.done++
    if (then) {
      await target.press(then)
      this.done++
    }
  }
  /** Picks a file in the browser's own dialog, which a button opens. */
  async pick(opener: Locator, file: { name: string; mimeType: string; buffer: Buffer }): Promise<void> {
    const [chooser] = await Promise.all([this.page.waitForEvent('filechooser'), this.click(opener)])
    await chooser.setFiles(file)
  }
  /** Everything that was done. */
  async all(): Promise<number> {
    const seen = await this.page.evaluate(() => (window as { clicksMade?: number }).clicksMade ?? -1)
    if (seen !== this.clicks) throw new Error(`The page saw ${seen} clicks, ${this.clicks} were counted.`)
    return this.done
  }
}
