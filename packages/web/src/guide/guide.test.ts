import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { pageOf } from '../../guidePages.ts'
import { guideFor, guidePages } from './pages.ts'

const folder = join(import.meta.dirname, '../../../../docs/guide')
const textOf = (file: string): string => readFileSync(join(folder, `${file}.md`), 'utf8')

describe('the guide', () => {
  it('lists every page that there is, once', () => {
    expect(guidePages.map((p) => `${p.file}.md`).sort()).toEqual(readdirSync(folder).sort())
  })
  it.each(guidePages.map((p) => p.file))('leads from %s only to pages and pictures that are there', (file) => {
    const { html, pictures } = pageOf(textOf(file))
    for (const p of pictures) expect(existsSync(join(folder, p)), p).toBe(true)
    expect(html.match(/\{\{picture \d+\}\}/g) ?? []).toHaveLength(pictures.length)
    const links = [...html.matchAll(/<a href="([^"]*)"/g)].map((m) => m[1])
    for (const to of links) expect(guidePages.map((p) => p.address)).toContain(to)
  })
  it('has links and pictures in place of what the text names them by', () => {
    expect(pageOf('# A\n\n[next](edit-copies.md), [start](README.md)\n\n![The list](../screenshots/originals.png)\n')).toEqual({
      html: '<h1>A</h1>\n<p><a href="/guide/edit-copies">next</a>, <a href="/guide">start</a></p>\n<p><img src="{{picture 0}}" alt="The list" width="1280" height="800" loading="lazy"></p>\n',
      pictures: ['../screenshots/originals.png'],
    })
  })
  it.each([
    ['/p/x/originals', 'originals'],
    ['/p/x/copies/trial', 'edit-copies'],
    ['/p/x/specs', 'edit-copies'],
    ['/p/x/cuts/a/changes/b', 'cut-lists'],
    ['/p/x/reconnect/a', 'reconnect'],
    ['/p/x/queue', 'running'],
    ['/p/x', 'README'],
    ['/', 'README'],
  ])('is about the screen at %s on its page %s', (pathname, file) => expect(guideFor(pathname).file).toBe(file))
})
