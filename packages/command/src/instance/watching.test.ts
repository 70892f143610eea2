import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { onSaved } from './watching.ts'

const watched = () => mkdtempSync(join(tmpdir(), 'naranja-saved-'))

describe('what is saved', () => {
  let end: () => Promise<void> = async () => undefined
  afterEach(() => end())

  it('is built after what is being built, never beside it, and after what failed', async () => {
    const folder = watched()
    const file = join(folder, 'there.ts')
    writeFileSync(file, '1')
    const built: string[] = []
    let [atOnce, most] = [0, 0]
    let fail: (e: Error) => void = () => undefined
    const held = new Promise<void>((_, reject) => {
      fail = reject
    })
    end = await onSaved([folder], async () => {
      most = Math.max(most, ++atOnce)
      built.push(readFileSync(file, 'utf8'))
      try {
        if (built.length === 1) await held
      } finally {
        atOnce--
      }
    })
    writeFileSync(file, '2')
    await vi.waitUntil(() => built.length === 1, { timeout: 60_000 })
    writeFileSync(file, '3')
    // Longer than it takes to be noticed: it would be built beside the first.
    await new Promise((r) => setTimeout(r, 600))
    fail(new Error('It does not compile.'))
    await vi.waitUntil(() => built.at(-1) === '3', { timeout: 60_000 })
    expect(most).toBe(1)
  })

  it('is not built where it is a test', async () => {
    const folder = watched()
    const built = vi.fn(async () => undefined)
    end = await onSaved([folder], built)
    writeFileSync(join(folder, 'one.test.ts'), '1')
    await new Promise((r) => setTimeout(r, 800))
    expect(built).not.toHaveBeenCalled()
  })
})
