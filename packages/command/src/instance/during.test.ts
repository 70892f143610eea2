/** What is started for a command goes with it, whatever still writes there when it is interrupted. */
import { type ChildProcess, spawn } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, expect, it } from 'vitest'
import { home } from '../base/index.ts'

const below = mkdtempSync(join(tmpdir(), 'naranja during '))
const [folder, program] = [join(below, 'files'), join(below, 'program.mjs')]
afterAll(() => rmSync(below, { recursive: true, force: true }))

/** Two instances, one within the other, into whose folders files are written all along, the outer ending last and slowly. */
const script = `
import { mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { during } from ${JSON.stringify(join(home, 'packages/command/src/instance/during.ts'))}
const instance = (ms) => ({ start: async () => undefined, stop: () => new Promise((r) => setTimeout(r, ms)) })
const folders = process.argv.slice(2)
const write = async (f) => {
  for (let i = 0; ; i++) {
    await mkdir(join(f, String(i % 7), 'below'), { recursive: true })
    await Promise.all(Array.from({ length: 800 }, (_, k) => writeFile(join(f, String(i % 7), 'below', i + ' ' + k), 'x').catch(() => undefined)))
    if (i === 2) process.stdout.write('writing ')
  }
}
await during(instance(300), () => during(instance(20), () => Promise.all(folders.map(write)), [folders[0]]), folders.slice(1))
`
const over = (c: ChildProcess) => new Promise<number | null>((r) => c.on('exit', r))

it('removes its folders when it is interrupted while files are written into them, those of what runs within it too', async () => {
  mkdirSync(folder)
  writeFileSync(program, script)
  const names = ['inner', 'outer', 'outer too']
  const folders = names.map((n) => join(folder, n))
  const loader = join(home, 'node_modules/tsx/dist/loader.mjs')
  const c = spawn(process.execPath, ['--no-warnings', '--import', loader, program, ...folders], { stdio: ['ignore', 'pipe', 'inherit'] })
  let said = ''
  await new Promise<void>((r) =>
    c.stdout?.on('data', (d: Buffer) => {
      said += d
      if (said.split('writing').length > folders.length) r()
    }),
  )
  const ended = over(c)
  c.kill('SIGINT')
  expect(await ended).toBe(130)
  expect(readdirSync(folder)).toEqual([])
})
