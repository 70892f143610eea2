/** Cut lists and reconnection in the browser, by key alone: a bent list comes in, is read, repaired, ruled, decided, compared with its next turnover, and saved. */
import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import { formatFrames, rate } from '@naranja/core/time'
import type { Browser, Page } from 'playwright'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, projectOn, type Running, startInstance } from '../support.ts'
import { focusOn, openBrowser, seriousFindings, tabOn } from './support.ts'

let app: Running
let project: ProjectRow
let browser: Browser
let page: Page
let errors: string[]
const pal = rate(25)
const folder = emptyFolder('cutlists browser')
const hour = 90_000
const t = (n: number) => formatFrames(n, pal)
const line = (n: number, reel: string, source: number, record: number, length: number, name?: string) =>
  `${String(n).padStart(3, '0')}  ${reel.padEnd(8)} V     C        ${t(source)} ${t(source + length)} ${t(hour + record)} ${t(hour + record + length)}${name ? `\n* FROM CLIP NAME: ${name}` : ''}`

// Reel R7 is A001 with a clock an hour late; a clip every camera writes; a title; a line that is none; a marker.
const first = [
  'TITLE: FERRY CUT 1',
  'FCM: NON-DROP FRAME',
  line(1, 'AX', 0, 0, 20, 'TITLE 1'),
  line(2, 'R7', 11 * hour + 10, 20, 20),
  line(3, 'R7', 11 * hour + 260, 40, 20),
  '004  HALF AN EVENT',
  line(5, 'AX', 10, 60, 20, 'CLIP0001.mov'),
  '* LOC: 01:00:02:20 RED     the rope',
  line(6, 'AX', 40, 80, 20, 'CLIP0001.mov'),
].join('\n')
const second = [
  line(1, 'AX', 0, 0, 20, 'TITLE 1'),
  line(2, 'R7', 11 * hour + 12, 20, 18),
  line(5, 'AX', 10, 38, 20, 'CLIP0001.mov'),
  line(7, 'A001', 10 * hour + 300, 58, 10, 'A001C002_261108_SF.mov'),
].join('\n')
const table = ['Cut of the ferry;;;', 'What;Where from;Begins;Frames', `A001C001_261108_SF.mov;A001;${t(10 * hour + 5)};20`].join('\n')

const press = async (...keys: string[]) => {
  for (const k of keys) await page.keyboard.press(k)
}
const tabTo = (target: ReturnType<Page['locator']>) => tabOn(page, target)
const button = (name: string | RegExp) => page.getByRole('button', { name })
const dialog = (name: string) => page.getByRole('dialog', { name })
const look = async (what: string) => expect([what, await seriousFindings(page)]).toEqual([what, []])
const states = async () => {
  const [cut] = await app.client.ask('cuts', project.id)
  return (await app.client.ask('links', cut?.id)).map((l) => l.state)
}

beforeAll(async () => {
  await makeClip(join(folder, 'A001', 'A001C001_261108_SF.mov'), { code: 1, frames: 100, timecode: '10:00:00:00', reel: 'A001' })
  await makeClip(join(folder, 'A001', 'A001C002_261108_SF.mov'), { code: 2, frames: 100, timecode: '10:00:10:00', reel: 'A001' })
  await makeClip(join(folder, 'Card 1', 'CLIP0001.mov'), { code: 3, frames: 100 })
  await makeClip(join(folder, 'Card 2', 'CLIP0001.mov'), { code: 4, frames: 100 })
  for (const [name, text] of [
    ['ferry 1.edl', first],
    ['ferry 2.edl', second],
    ['ferry table.csv', table],
  ] as const)
    writeFileSync(join(folder, name), text)
  app = await startInstance('cutlists browser', folder)
  ;({ project } = await projectOn(app.client, folder))
  ;({ browser, page, errors } = await openBrowser(app))
  await page.goto(`${app.instance.address}/p/${project.id}/cuts`)
}, 180_000)
afterAll(async () => {
  await browser?.close()
  await app?.stop()
})

/** Opens the dialog and chooses a file of the volume. */
async function choose(file: string): Promise<void> {
  await tabTo(button('Import cut list').first())
  await press('Enter')
  await tabTo(
    dialog('Import cut list')
      .getByRole('list', { name: 'Volumes' })
      .getByRole('button', { name: /cutlists browser/ }),
  )
  await press('Enter')
  await tabTo(dialog('Import cut list').getByLabel(file))
  await press('Space')
}

describe('a cut list', () => {
  it('is seen before it is imported', async () => {
    await choose('ferry 1.edl')
    const d = dialog('Import cut list')
    await d.getByText('edit decision list, 5 events on V1').waitFor()
    await d.getByText(/line 7/).waitFor()
    await look('what would be read')
    await tabTo(d.getByRole('button', { name: 'Import cut list' }))
    await press('Enter')
    await page.getByText('5 events, 00:00:04:00 at 25 fps').waitFor()
  })
  it('stands beside its text, with its problems and the lines that belong to no event', async () => {
    await focusOn(page.getByRole('radio', { name: 'Text and problems' }))
    await press('Space')
    await page
      .getByRole('list', { name: 'Problems' })
      .getByText(/looks like an event/)
      .waitFor()
    await page.getByRole('region', { name: 'Text of the list' }).getByText('◂ event-line').waitFor()
    await look('text')
  })
  it('shows its stages side by side, and which events are not as the list says', async () => {
    await focusOn(page.getByRole('radio', { name: 'Stages' }))
    await press('Space')
    const stages = page.getByRole('table', { name: 'Stages' })
    await page.getByText('5 events are not as the list says.').waitFor()
    await stages.getByRole('row').filter({ hasText: 'V1 005' }).getByText('could be several').waitFor()
    await stages.getByRole('row').filter({ hasText: 'V1 002' }).getByText('tied to nothing; cannot be rendered').waitFor()
    await look('stages')
    await focusOn(page.getByRole('radio', { name: 'Events' }))
    await press('Space')
  })
  it('of a table is laid out by hand', async () => {
    await choose('ferry table.csv')
    const d = dialog('Import cut list')
    await d.getByText('What each column is').waitFor()
    await d.getByLabel('Row with the headings').selectOption('1')
    await d.getByLabel('Column 1').selectOption('name')
    await d.getByLabel('Column 2').selectOption('reel')
    await d.getByLabel('Column 3').selectOption('sourceIn')
    await d.getByLabel('Column 4').selectOption('length')
    await d.getByText('table, 1 event on V1').waitFor()
    await look('columns of a table')
    await press('Escape')
  })
})

describe('reconnection', () => {
  it('is repaired for a whole reel, its name and its clock at once', async () => {
    await press('Alt+4')
    await page.getByText('2 not found').waitFor()
    await press('r')
    const d = dialog('Repair')
    await d.getByLabel('Open events').selectOption('reel R7')
    await d.getByLabel('Roll they belong to').selectOption('A001')
    await d.getByRole('button', { name: /−01:00:00:00: 2 of 2 lie inside/ }).waitFor()
    await tabTo(d.getByRole('button', { name: /−01:00:00:00/ }))
    await press('Enter')
    await d.getByText('2 of 2 would land.').waitFor()
    await look('repair')
    await tabTo(d.getByRole('button', { name: /^Repair/ }))
    await press('Enter')
    await page.getByText('Added 2 rules.').waitFor()
    await page.getByText('2 certain').waitFor()
    await press('Control+z')
    await page.getByText('2 not found').waitFor()
  })
  it('is repaired by a drag onto a lane of the day chart', async () => {
    const chart = page.getByRole('img', { name: /Cut strip and day chart/ })
    const box = await chart.boundingBox()
    if (!box) throw new Error('no chart')
    // What is wanted, and below it the lanes: A001, Card 1, Card 2.
    const first = box.y + box.height - 14 - 2 * 17
    await page.mouse.move(box.x + 130, first - 17 - 4)
    await page.mouse.down()
    await page.mouse.move(box.x + 400, first, { steps: 4 })
    await page.mouse.up()
    const d = dialog('Repair')
    await d.getByText('2 of 2 would land.').waitFor()
    expect(await d.getByLabel('Roll they belong to').inputValue()).toBe('A001')
    await d.getByRole('button', { name: /^Repair/ }).click()
    await page.getByText('2 certain').waitFor()
  })
  it('has rules that are counted, switched and kept', async () => {
    await tabTo(button('Rules'))
    await press('Enter')
    const d = dialog('Rules')
    await d.getByText('decides 2').first().waitFor()
    await look('rules')
    await d.getByLabel('Add a rule').selectOption('prefer')
    await d.getByLabel('Which one').selectOption('place')
    await tabTo(d.getByLabel('Volume or folder'))
    await page.keyboard.type('Card 2')
    await d.getByText(/Of several, the one in Card 2/).waitFor()
    await d.getByRole('listitem').filter({ hasText: 'Card 2' }).getByText('decides 2').waitFor()
    await tabTo(d.getByLabel('Rule 3 is on'))
    await press('Space')
    await d.getByText('would: decides 2').waitFor()
    await press('Space')
    await tabTo(d.getByRole('button', { name: 'Keep rules' }))
    await press('Enter')
    await page.getByText('2 likely').first().waitFor()
    expect(await states()).toEqual(['none-needed', 'certain', 'certain', 'likely', 'likely'])
    await press('Control+z')
    await page.getByText('2 several').waitFor()
  })
  it('is limited to some events by a rule', async () => {
    await press('n')
    await page.getByText('Event 005 on V1: several').waitFor()
    await tabTo(button('Rules'))
    await press('Enter')
    const d = dialog('Rules')
    await d.getByLabel('Add a rule').selectOption('only')
    await tabTo(d.getByLabel('Text'))
    await page.keyboard.type('Card 1')
    await d.getByLabel('For which events').last().selectOption('event 005 on V1')
    await d.getByText('Only originals whose place has "Card 1", for 1 chosen event').waitFor()
    await d.getByRole('listitem').filter({ hasText: 'Card 1' }).getByText('decides 1').waitFor()
    await look('a limit')
    await tabTo(d.getByRole('button', { name: 'Keep rules' }))
    await press('Enter')
    await page.getByText('1 several').waitFor()
    expect(await states()).toEqual(['none-needed', 'certain', 'certain', 'likely', 'several'])
    await press('Control+z')
    await page.getByText('2 several').waitFor()
  })
  it('is nudged by frames, and taken where it is looked at', async () => {
    await page.getByText('Event 005 on V1: several').waitFor()
    await press('2', 'ArrowRight', 'ArrowRight', 'ArrowRight', 'ArrowLeft')
    await page.getByText('frame 22').waitFor()
    await button(/Take it 2 frames later/).waitFor()
    await look('nudged')
    await press('Enter')
    await page.getByText(/Set event 005 to .*Card 2\/CLIP0001.mov/).waitFor()
    const [cut] = await app.client.ask('cuts', project.id)
    const links = await app.client.ask('links', cut?.id)
    expect(links.map((l) => [l.state, l.range?.in]).at(3)).toEqual(['set-by-hand', 12])
    await press('Control+z')
    await page.getByText('2 several').waitFor()
  })
  it('is listed for a part of the cut alone, brushed over or in sight', async () => {
    const chart = page.getByRole('img', { name: /Cut strip and day chart/ })
    const box = await chart.boundingBox()
    if (!box) throw new Error('no chart')
    // The second half of the cut.
    const at = (share: number) => box.x + 112 + (box.width - 124) * share
    await page.mouse.move(at(0.55), box.y + 14)
    await page.mouse.down()
    await page.mouse.move(at(0.99), box.y + 14, { steps: 4 })
    await page.mouse.up()
    await focusOn(page.getByRole('radio', { name: 'List' }))
    await press('Space')
    const rows = page.getByRole('table', { name: 'Events' }).getByRole('row')
    await button(/^Only 01:00:02:0\d to 01:00:0/).waitFor()
    expect(await rows.count()).toBe(4)
    await look('a part')
    await button(/^Only 01:00:02/).click()
    expect(await rows.count()).toBe(6)
    await focusOn(page.getByRole('radio', { name: 'Chart' }))
    await press('Space')
  })
  it('is looked at alone in one state, in the list and on the chart', async () => {
    await tabTo(button('2 several'))
    await press('Enter')
    await button('Only 2 events several: show all again').waitFor()
    const chart = page.getByRole('img', { name: /Cut strip and day chart/ })
    await tabTo(chart)
    await press('ArrowLeft')
    await page.getByText('Event 005 on V1: several').waitFor()
    // Nothing before it is in that state.
    await press('ArrowLeft')
    await page.getByText('Event 005 on V1: several').waitFor()
    await press('ArrowRight')
    await page.getByText('Event 006 on V1: several').waitFor()
    await focusOn(page.getByRole('radio', { name: 'List' }))
    await press('Space')
    expect(await page.getByRole('table', { name: 'Events' }).getByRole('row').count()).toBe(3)
    await page
      .getByText(/^Could be 2 originals that nothing tells apart/)
      .first()
      .waitFor()
    await look('one state')
    await tabTo(button('2 several'))
    await press('Enter')
    await button(/^Only /).waitFor({ state: 'detached' })
    await focusOn(page.getByRole('radio', { name: 'Chart' }))
    await press('Space')
  })
  it('looks at one roll alone, by key and by its name on the chart', async () => {
    const chart = page.getByRole('img', { name: /Cut strip and day chart/ })
    await tabTo(chart)
    await press('ArrowDown')
    await button('Only A001, 2 events: show all again').waitFor()
    await page.getByText('Event 002 on V1: certain').waitFor()
    await press('ArrowRight')
    await page.getByText('Event 003 on V1: certain').waitFor()
    // Nothing of it is open, and no other event stands beside.
    await press('ArrowRight')
    await page.getByText('Event 003 on V1: certain').waitFor()
    await press('ArrowDown')
    await button('Only Card 1, 2 events: show all again').waitFor()
    await look('one roll')
    await focusOn(page.getByRole('radio', { name: 'List' }))
    await press('Space')
    expect(await page.getByRole('table', { name: 'Events' }).getByRole('row').count()).toBe(3)
    await focusOn(page.getByRole('radio', { name: 'Chart' }))
    await press('Space')
    await tabTo(chart)
    await press('Escape')
    await button(/^Only /).waitFor({ state: 'detached' })
    const box = await chart.boundingBox()
    if (!box) throw new Error('no chart')
    // The first lane above two others.
    await page.mouse.click(box.x + 40, box.y + box.height - 14 - 2 * 17)
    await button('Only A001, 2 events: show all again').click()
    await button(/^Only /).waitFor({ state: 'detached' })
  })
  it('is decided for all events of a clip at once, with three frames in sight', async () => {
    await press('n')
    await page.getByText('Event 005 on V1: several').waitFor()
    await press('a')
    await page.getByText('first, frame 10').waitFor()
    await page.getByText('last, frame 29').waitFor()
    await look('three frames')
    await press('s')
    await page.getByRole('radio', { name: '2 of this clip', checked: true }).waitFor()
    await press('2', 'Enter')
    await page.getByText(/Set 2 events to .*Card 2\/CLIP0001.mov/).waitFor()
    expect(await states()).toEqual(['none-needed', 'certain', 'certain', 'set-by-hand', 'set-by-hand'])
  })
})

describe('a new turnover', () => {
  it('keeps what was decided, and tells what changed', async () => {
    await press('Alt+3')
    await choose('ferry 2.edl')
    const d = dialog('Import cut list')
    await d.getByText('4 events on V1').waitFor()
    expect(await d.getByLabel('Turnover').inputValue()).not.toBe('')
    await tabTo(d.getByRole('button', { name: 'Import cut list' }))
    await press('Enter')
    await page.getByText('4 events, 00:00:02:18 at 25 fps').waitFor()
    expect(await states()).toEqual(['none-needed', 'certain', 'set-by-hand', 'certain'])
    await tabTo(button('What changed'))
    await press('Enter')
    for (const text of ['1 new', '2 gone', '1 moved', '1 trimmed']) await page.getByRole('button', { name: text }).waitFor()
    await page.getByText('begins 2 frames later in its source').waitFor()
    await look('turnovers')
    await tabTo(page.getByRole('img', { name: /above, .* below/ }))
    await press('ArrowRight', 'ArrowRight')
    await page.getByRole('row', { selected: true }).waitFor()
    await tabTo(page.getByRole('link', { name: 'Back to the cut' }))
    await press('Enter')
  })
  it('is saved as a list, with what it loses told first', async () => {
    await tabTo(button('Save list'))
    await press('Enter')
    const d = dialog('Save cut list')
    await d.getByText('Every event points at originals.').waitFor()
    await look('save list')
    await focusOn(d.getByRole('radio', { name: 'proxies' }))
    await press('Space')
    await d.getByText(/3 events would not follow/).waitFor()
    await focusOn(d.getByRole('radio', { name: 'OpenTimelineIO' }))
    await press('Space')
    // At the files of a folder, wherever they are.
    await focusOn(d.getByRole('radio', { name: 'files in a folder' }))
    await press('Space')
    await tabTo(d.getByLabel(/^All of cutlists browser/))
    await press('Space')
    await look('a folder to point at')
    await tabTo(d.getByRole('button', { name: 'Point at its files' }))
    await press('Enter')
    // Two files are called CLIP0001.mov; the folder above tells which is meant.
    await d.getByText('Every event points at a file of the folder.').waitFor()
    await focusOn(d.getByRole('radio', { name: 'proxies' }))
    await press('Space')
    const link = d.getByRole('link', { name: /Save ferry 2 on proxies.otio/ })
    const download = page.waitForEvent('download')
    await link.click()
    expect((await download).suggestedFilename()).toBe('ferry 2 on proxies.otio')
    await press('Escape')
    expect(errors.filter((e) => !/ERR_|Failed to load resource/.test(e))).toEqual([])
  })
})
