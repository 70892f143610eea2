import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync, readdirSync, rmdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it, vi } from 'vitest'
import { reusedPipe } from './index.ts'

const bytes = 3_000_001
/** A program that writes bytes whose values tell where they stand. */
const writer = (writeEnd: number) => {
  const program = `const b = Buffer.alloc(${bytes}); for (let i = 0; i < b.length; i++) b[i] = (i * 7 + (i >> 8)) & 255; require('fs').writeSync(1, b, 0, 1000); let at = 1000; while (at < b.length) at += require('fs').writeSync(1, b, at)`
  return spawn(process.execPath, ['-e', program], { stdio: ['ignore', writeEnd, 'ignore'] })
}

describe('a pipe that is read through one buffer', () => {
  it('gives every byte once and in order, however slowly they are taken, and ends', async () => {
    const pipe = await reusedPipe(writer)
    const child = pipe.begun
    let [at, wrong] = [0, 0]
    for await (const piece of pipe.pieces) {
      if (at < 200_000) await new Promise((r) => setTimeout(r, 20))
      for (const b of piece) if (b !== ((at * 7 + (at++ >> 8)) & 255)) wrong++
    }
    expect({ at, wrong }).toEqual({ at: bytes, wrong: 0 })
    expect(child.exitCode ?? (await once(child, 'exit'))[0]).toBe(0)
  })
  it('tells whoever writes that nobody reads any more, and leaves nothing behind', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'pipes-'))
    vi.stubEnv('TMPDIR', folder)
    const pipe = await reusedPipe(writer)
    const child = pipe.begun
    const ended = once(child, 'exit')
    await pipe.pieces.next()
    await pipe.pieces.return(undefined)
    const [code, signal] = await ended
    expect(code === 0 ? null : (signal ?? code)).not.toBeNull()
    expect(readdirSync(folder)).toEqual([])
    vi.unstubAllEnvs()
    rmdirSync(folder)
  })
  it('ends where whoever reads lets go of it before the first piece, and while it waits', async () => {
    const unread = await reusedPipe(writer)
    unread.close()
    expect((await unread.pieces.next()).done).toBe(true)
    const silent = (writeEnd: number) => spawn('sleep', ['60'], { stdio: ['ignore', writeEnd, 'ignore'] })
    const waiting = await reusedPipe(silent)
    const next = waiting.pieces.next()
    setTimeout(waiting.close, 30)
    expect((await next).done).toBe(true)
    waiting.begun.kill()
  })
  it('is closed where what should write does not begin', async () => {
    const refused = reusedPipe(() => {
      throw new Error('no program')
    })
    await expect(refused).rejects.toThrow('no program')
  })
})
