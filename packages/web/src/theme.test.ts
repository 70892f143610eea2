/** The two themes: every text can be read on every ground, and no colour is asked for that is none. */
import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'

const here = import.meta.dirname
const css = readFileSync(join(here, 'theme.css'), 'utf8')
/** Colours of the dim theme, and of the day theme over it. */
const [dim = {}, day = {}] = css
  .split('color-scheme:')
  .slice(1)
  .map(
    (part): Record<string, string> => Object.fromEntries([...(part.split('}')[0] ?? '').matchAll(/--([\w-]+):\s*(#[0-9a-f]{6})/gi)].map((m) => [m[1], m[2]])),
  )

/** Relative luminance (WCAG 2.2, relative luminance). */
function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [1, 3, 5].map((i) => {
    const c = Number.parseInt(hex.slice(i, i + 2), 16) / 255
    return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4
  })
  return 0.2126 * r + 0.7152 * g + 0.0722 * b
}
/** Contrast ratio (WCAG 2.2, 1.4.3). */
function contrast(a: string, b: string): number {
  const [low = 0, high = 0] = [luminance(a), luminance(b)].sort((x, y) => x - y)
  return (high + 0.05) / (low + 0.05)
}

describe.each([
  ['dim', dim],
  ['day', day],
] as const)('the %s theme', (_name, colours) => {
  const grounds = ['page', 'panel', 'raised'] as const
  it.each(['ink', 'ink-2', 'ink-3', 'leaf', 'lemon', 'pomegranate', 'tide'])('lets %s be read on every ground', (text) => {
    for (const g of grounds) expect([g, contrast(colours[text] ?? '#', colours[g] ?? '#') >= 4.5]).toEqual([g, true])
  })
  it('lets the main action be read', () => expect(contrast(colours['zest-ink'] ?? '#', colours.zest ?? '#')).toBeGreaterThanOrEqual(4.5))
})

it('every colour that a class asks for is one', () => {
  const known = new Set([...css.matchAll(/--color-([a-z0-9-]+):/g)].map((m) => m[1]))
  const sources = readdirSync(here, { recursive: true, withFileTypes: true }).filter((f) => f.isFile() && f.name.endsWith('.tsx'))
  expect(sources.length).toBeGreaterThan(20)
  const names =
    /\b(?:bg|text|border|accent|fill|stroke|outline|ring|decoration|from|to)-(black|white|gray|grey|slate|zinc|neutral|red|orange|amber|yellow|green|teal|cyan|blue|indigo|purple|pink|rose|ground|panel|raised|line|ink|zest|leaf|lemon|pomegranate|tide|well|bar)(-\d+)?(?=[\s"'`/:])/g
  const asked = sources.flatMap((f) => [...readFileSync(join(f.parentPath, f.name), 'utf8').matchAll(names)].map((m) => `${m[1]}${m[2] ?? ''}`))
  expect([...new Set(asked)].filter((c) => !known.has(c))).toEqual([])
  expect(asked.length).toBeGreaterThan(100)
})
