/** Documents keep their shape: one that is another has a version of its own, and a step that leads there. */
import { createHash } from 'node:crypto'
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { steps } from '../database/index.ts'
import { documentOf, DocumentError, documents } from './document.ts'
import './index.ts'

interface Known {
  readonly version: number
  /** Of the shape as JSON Schema (draft 2020-12). */
  readonly shape: string
}
const file = join(import.meta.dirname, 'documents.json')
const known: Record<string, Known> = existsSync(file) ? (JSON.parse(readFileSync(file, 'utf8')) as Record<string, Known>) : {}
const shapeOf = (shape: z.ZodType): string =>
  createHash('sha1')
    .update(JSON.stringify(z.toJSONSchema(shape, { unrepresentable: 'any', io: 'output' })))
    .digest('hex')

describe('documents', () => {
  const now = [...documents.values()].map((d) => ({ name: d.name, version: d.version, shape: shapeOf(d.shape) }))
  it.each(now)('$name has the shape of its version, or a new version', ({ name, version, shape }) => {
    const before = known[name]
    if (before && before.shape !== shape)
      expect(version, `${name} has another shape than in version ${before.version}: raise its version, and write a step from the one before`).toBeGreaterThan(
        before.version,
      )
    for (let v = 2; v <= version; v++)
      expect(
        steps.some((s) => s.leadsTo?.[name] === v),
        `a step of the tables leads ${name} to version ${v}`,
      ).toBe(true)
  })
  it('are written down as they are', () => {
    const next = Object.fromEntries(now.map(({ name, version, shape }) => [name, { version, shape }]).sort(([a], [b]) => (String(a) < String(b) ? -1 : 1)))
    if (process.env.NARANJA_WRITE) writeFileSync(file, `${JSON.stringify(next, null, 2)}\n`)
    else expect(known, 'NARANJA_WRITE=1 npx vitest run packages/server/src/records writes them down').toEqual(next)
  })
})

describe('what a column keeps', () => {
  const range = documentOf<{ readonly in: number; readonly out: number; readonly note?: string | undefined }>()(
    'a test',
    1,
    z.object({ in: z.number(), out: z.number(), note: z.string().optional() }),
  )
  it('is read where it has the shape', () => {
    expect(range.read('{"in":1,"out":2}')).toEqual({ in: 1, out: 2 })
    expect(range.read('{"in":1,"out":2,"note":"x"}')).toEqual({ in: 1, out: 2, note: 'x' })
  })
  it('is refused by name and place where it has not', () => {
    expect(() => range.read('{"in":1}')).toThrow(DocumentError)
    expect(() => range.read('{"in":1}')).toThrow(/What is kept as a test has another shape.*out:/)
  })
  it('does not compile where shape and type differ', () => {
    const make = documentOf<{ readonly in: number; readonly out: number }>()
    // @ts-expect-error: it leaves `out` out.
    make('leaves out', 1, z.object({ in: z.number() }))
    // @ts-expect-error: its type has no `more`.
    make('has more', 1, z.object({ in: z.number(), out: z.number(), more: z.number() }))
    // @ts-expect-error: it may lack what its type has.
    make('may lack', 1, z.object({ in: z.number(), out: z.number().optional() }))
    expect(documents.get('may lack')?.version).toBe(1)
  })
})
