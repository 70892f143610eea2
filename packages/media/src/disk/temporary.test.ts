import { mkdirSync, mkdtempSync, readdirSync, readFileSync, readlinkSync, rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { argumentPath } from './paths.ts'
import { processStart } from '../process/process.ts'
import { graphFolder, linkFolder, linksIn, linkTo, ownTemporary, sweepTemporary } from './temporary.ts'

const dir = mkdtempSync(join(tmpdir(), 'naranja temporary '))
afterAll(() => rmSync(dir, { recursive: true, force: true }))

describe('files for the moment', () => {
  it('lie in a folder of the process, which outlives no process that was killed', () => {
    const mine = ownTemporary('test')
    expect(statSync(mine).mode & 0o777).toBe(0o700)
    const [all, name] = [join(mine, '..'), `${process.pid}-${processStart(process.pid)}-test`]
    // One of a number that is in use again, but by another process.
    mkdirSync(join(all, `${process.pid}-1-test`))
    mkdirSync(join(all, '999999999-5-test'))
    writeFileSync(join(all, '999999999-5-test', 'file'), '')
    sweepTemporary()
    expect(readdirSync(all)).toContain(name)
    expect(readdirSync(all).filter((n) => n === `${process.pid}-1-test` || n.startsWith('999999999'))).toEqual([])
  })
  it('never lie behind a link, or in what is no folder', () => {
    const elsewhere = join(dir, 'elsewhere')
    mkdirSync(elsewhere)
    symlinkSync(elsewhere, join(dir, 'a link'))
    linksIn(join(dir, 'a link'))
    expect(() => linkFolder('x')).toThrow(/is not a folder of this user's/)
    linksIn(join(dir, 'own'))
    mkdirSync(join(dir, 'own'))
    symlinkSync(elsewhere, join(dir, 'own', 'looks'))
    expect(() => linkFolder('looks')).toThrow(/is not a folder of this user's/)
    expect(readdirSync(elsewhere)).toEqual([])
  })
  it('are where filter graphs can name them, whatever the folder above is called', () => {
    linksIn(join(dir, "it's: odd, [here]"))
    expect(graphFolder('looks')).toMatch(/^[\w./-]+$/)
  })
})

describe('links', () => {
  it('lead where they are wanted, also where one stood that led elsewhere', () => {
    linksIn(join(dir, 'links'))
    const name = Buffer.concat([Buffer.from(`${dir}/caf`), Buffer.from([0xe9]), Buffer.from('.mov')])
    writeFileSync(name, 'right')
    const link = argumentPath(name)
    expect(link.startsWith(join(dir, 'links'))).toBe(true)
    expect(readFileSync(link, 'utf8')).toBe('right')
    writeFileSync(join(dir, 'wrong'), 'wrong')
    rmSync(link)
    symlinkSync(join(dir, 'wrong'), link)
    expect(readFileSync(argumentPath(name), 'utf8')).toBe('right')
    rmSync(link)
    writeFileSync(link, 'no link at all')
    expect(readlinkSync(linkTo(name, link), { encoding: 'buffer' })).toEqual(name)
  })
})
