/** In what pieces a plan is rendered: nothing is left out, and no process has too much open. */
import type { Layer, PlanPart } from '@naranja/core/plan'
import { length } from '@naranja/core/time'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { stretches, together } from './pieces.ts'

const sources = new Map([
  ['hd', { width: 1920, height: 1080 }],
  ['uhd', { width: 3840, height: 2160 }],
  ['raw', { width: 640, height: 360, raw: {} as never }],
])
const layers = fc.oneof(
  fc.constant<Layer>({ kind: 'black' }),
  fc
    .record({ clipId: fc.constantFrom('hd', 'uhd', 'raw'), num: fc.constantFrom(1, 2, 0, -1) })
    .map(({ clipId, num }): Layer => ({ kind: 'clip', eventId: 'e', clipId, first: 1000, k: 0, step: { num, den: 1 } })),
)
const plans = fc
  .array(fc.record({ n: fc.oneof(fc.integer({ min: 1, max: 70 }), fc.integer({ min: 1, max: 900 })), a: layers, b: fc.option(layers) }), { maxLength: 60 })
  .map((list) => {
    let at = 0
    return list.map(({ n, a, b }): PlanPart => {
      const part: PlanPart = { in: at, out: at + n, layers: b ? [a, b] : [a], mix: b ? { from: 0, of: n } : null }
      at += n
      return part
    })
  })
const pixels = (p: PlanPart) =>
  p.layers.reduce((n, l) => n + (l.kind === 'clip' ? (sources.get(l.clipId)?.width ?? 0) * (sources.get(l.clipId)?.height ?? 0) : 0), 0)

it('is the whole plan, in order, once', () => {
  fc.assert(
    fc.property(plans, (parts) => {
      const pieces = stretches(parts, sources)
      let at = 0
      for (const p of pieces) {
        expect(p.in).toBe(at)
        expect(length(p)).toBeLessThanOrEqual(250)
        at = p.out
      }
      expect(at).toBe(parts.at(-1)?.out ?? 0)
      // What lies beside what in one process changes nothing of what is rendered: all of it, once.
      const groups = together(
        pieces.map((part) => ({ part, path: String(part.in) })),
        sources,
      )
      expect(
        groups
          .flat()
          .map((s) => s.part.in)
          .sort((a, b) => a - b),
      ).toEqual(pieces.map((p) => p.in))
      for (const g of groups.filter((g) => g.length > 1)) {
        expect(g.length).toBeLessThanOrEqual(8)
        expect(g.reduce((n, s) => n + pixels(s.part), 0)).toBeLessThanOrEqual(8 * 1920 * 1080)
        for (const { part } of g) {
          expect(length(part)).toBeLessThanOrEqual(60)
          for (const l of part.layers) expect(l.kind === 'clip' && (l.clipId === 'raw' || l.step.num < 0)).toBe(false)
        }
      }
    }),
  )
})

it('puts as many short ones together as may be, past long ones between them, and each file once', () => {
  const at = (from: number, n: number): PlanPart => ({
    in: from,
    out: from + n,
    layers: [{ kind: 'clip', eventId: 'e', clipId: 'hd', first: 0, k: 0, step: { num: 1, den: 1 } }],
    mix: null,
  })
  const list = Array.from({ length: 12 }, (_, i) => ({ part: at(i * 300, i === 3 ? 200 : 10), path: i === 5 ? '4' : String(i) }))
  expect(together(list, sources).map((g) => g.map((s) => s.path))).toEqual([['0', '1', '2', '4', '6', '7', '8', '9'], ['3'], ['10', '11']])
})
