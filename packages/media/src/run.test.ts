import { execFileSync, spawn } from 'node:child_process'
import { once } from 'node:events'
import { describe, expect, it } from 'vitest'
import { tiedTo } from './process.ts'

/** A process that starts a tied one, and is killed at once or when told. */
const starter = `
const { spawn } = require('node:child_process')
const [file, ...rest] = JSON.parse(process.argv[1]).map((a) => (a === 'ME' ? String(process.pid) : a))
spawn(file, rest, { stdio: 'ignore' })
if (process.argv[2] === 'at once') process.kill(process.pid, 'SIGKILL')
else setTimeout(() => process.kill(process.pid, 'SIGKILL'), 400)
`
const args = (n: string) => JSON.stringify(tiedTo(4711, ['sleep', n]).map((a) => (a === '4711' ? 'ME' : a)))
const alive = (n: string) => execFileSync('ps', ['-eo', 'args']).toString().includes(`sleep ${n}`)

describe('a process tied to the one that started it', () => {
  it('ends with it, and never starts where it was killed in the same moment', async () => {
    for (let i = 0; i < 25; i++) await once(spawn(process.execPath, ['-e', starter, args('31.25'), 'at once']), 'exit')
    await once(spawn(process.execPath, ['-e', starter, args('31.5'), 'later']), 'exit')
    await new Promise((r) => setTimeout(r, 300))
    expect([alive('31.25'), alive('31.5')]).toEqual([false, false])
  })
  it('runs with its arguments as they are', () => {
    const [file, ...rest] = tiedTo(process.pid, ['printf', '%s|', "it's", '$HOME', '`x`', ''])
    expect(execFileSync(file, rest).toString()).toBe("it's|$HOME|`x`||")
  })
  it('does not start for another', () => {
    const [file, ...rest] = tiedTo(1, ['printf', 'started'])
    expect(() => execFileSync(file, rest)).toThrow()
  })
})
