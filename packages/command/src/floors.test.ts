/** The floors of every package: what stands on what is listed in its biome.json from the ground up, and the linter holds it. */
import { spawnSync } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join, normalize } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
import { z } from 'zod'
import { home } from './base/index.ts'

const Config = z.object({
  overrides: z.array(
    z.object({
      includes: z.array(z.string()),
      linter: z.object({
        rules: z.object({
          style: z.object({
            noRestrictedImports: z.union([
              z.literal('off'),
              z.object({ level: z.literal('error'), options: z.object({ patterns: z.array(z.object({ group: z.array(z.string()), message: z.string() })) }) }),
            ]),
          }),
        }),
      }),
    }),
  ),
})

/** The rooms of a package from the ground up, each with those that it may import. */
function floorsOf(name: string): { room: string; on: string[] }[] {
  const { overrides } = Config.parse(JSON.parse(readFileSync(join(home, 'packages', name, 'biome.json'), 'utf8')))
  return overrides.flatMap(({ includes, linter }) => {
    const room = /^src\/([\w/]+)\/\*\*$/.exec(includes[0] ?? '')?.[1]
    const rule = linter.rules.style.noRestrictedImports
    if (!room || rule === 'off') return []
    const [first, ...doors] = rule.options.patterns[0]?.group ?? []
    expect(first).toBe('../**')
    return [{ room, on: doors.map((d) => normalize(join(room, d.replace(/^!(.*)\/index\.ts$/, '$1')))) }]
  })
}
const withRooms = ['core', 'xml', 'contract', 'media', 'server', 'web', 'command']

/** Folders of a package that hold code; of `steps` each step is a room. */
const roomsThere = (name: string, below = ''): string[] =>
  readdirSync(join(home, 'packages', name, 'src', below), { withFileTypes: true })
    .filter((e) => e.isDirectory())
    .flatMap((e) => (e.name === 'steps' ? roomsThere(name, 'steps') : [join(below, e.name)]))

describe.each(withRooms)('the floors of %s', (name) => {
  const floors = floorsOf(name)
  it('hold every room once, and each stands on rooms below it', () => {
    expect(floors.map((f) => f.room).sort()).toEqual(roomsThere(name).sort())
    const below = new Set<string>()
    for (const { room, on } of floors) {
      expect(
        on.filter((o) => !below.has(o)),
        `${room} stands on rooms that stand above it`,
      ).toEqual([])
      below.add(room)
    }
  })
  it('are drawn in the docs, from the top down', () => {
    const text = readFileSync(join(home, 'docs/structure.md'), 'utf8')
    const part = text.split(/^## /m).find((t) => t.startsWith(`${name}\n`)) ?? ''
    const rows = [...part.matchAll(/^\| `([^`]+)` \| ([^|]+) \|/gm)].map((m) => ({ room: m[1] ?? '', on: (m[2] ?? '').trim() }))
    const drawn = rows.map(({ room, on }, i) => {
      const below = rows.slice(i + 1).map((r) => r.room)
      const but = /^all below(?: but (.*))?$/.exec(on)
      const named = (but ? (but[1] ?? '') : on === '–' ? '' : on).split(', ').filter(Boolean)
      return { room, on: (but ? below.filter((b) => !named.includes(b)) : named).sort() }
    })
    expect(drawn).toEqual(floors.map(({ room, on }) => ({ room, on: [...on].sort() })).reverse())
  })
  it('have a door in every room, with a sentence of what is behind it', () => {
    const silent = floors.filter(({ room }) => !/^\/\*\*\s/.test(readFileSync(join(home, 'packages', name, 'src', room, 'index.ts'), 'utf8')))
    expect(silent.map((s) => s.room)).toEqual([])
  })
})

it('packages depend on packages below them only', () => {
  const order = ['core', 'xml', 'contract', 'media', 'demo', 'server', 'web', 'command']
  for (const [i, name] of order.entries()) {
    const { dependencies = {} } = JSON.parse(readFileSync(join(home, 'packages', name, 'package.json'), 'utf8')) as { dependencies?: Record<string, string> }
    const up = Object.keys(dependencies).filter((d) => d.startsWith('@naranja/') && !order.slice(0, i).includes(d.slice('@naranja/'.length)))
    expect(up, name).toEqual([])
    if (name === 'core') expect(dependencies).toEqual({})
    // The page runs in a browser, and knows nothing of disks; media knows nothing of requests.
    if (name === 'web') expect(Object.keys(dependencies)).not.toContain('@naranja/media')
    if (name === 'media') expect(Object.keys(dependencies)).not.toContain('@naranja/contract')
  }
})

describe('a wrong import', () => {
  const copy = mkdtempSync(join(tmpdir(), 'naranja floors '))
  afterAll(() => rmSync(copy, { recursive: true }))
  cpSync(join(home, 'biome.json'), join(copy, 'biome.json'))
  cpSync(join(home, 'package.json'), join(copy, 'package.json'))
  for (const name of readdirSync(join(home, 'packages')))
    for (const file of ['biome.json', 'package.json'])
      if (existsSync(join(home, 'packages', name, file))) cpSync(join(home, 'packages', name, file), join(copy, 'packages', name, file), { recursive: true })

  /** What the linter says of a file with these imports, in the place of `path`. */
  const said = (path: string, ...from: string[]): string[] => {
    const file = join(copy, path)
    mkdirSync(dirname(file), { recursive: true })
    writeFileSync(file, `${from.map((f, i) => `import { x${i} } from '${f}'\n`).join('')}export const all = [${from.map((_, i) => `x${i}`).join(', ')}]\n`)
    const { stdout } = spawnSync(join(home, 'node_modules/.bin/biome'), ['lint', '--reporter=json', path], { cwd: copy, encoding: 'utf8' })
    rmSync(file)
    const { diagnostics } = z.object({ diagnostics: z.array(z.object({ category: z.string(), message: z.string() })) }).parse(JSON.parse(stdout))
    return diagnostics.map((d) => `${d.category.split('/').at(-1)}: ${d.message}`)
  }

  it.each(withRooms)('fails with a sentence in %s: from above, past a door, from the top', (name) => {
    const floors = floorsOf(name)
    const [ground, top] = [floors[0], floors.at(-1)]
    const low = floors.find((f) => f.on.length > 0)
    if (!ground || !top || !low) throw new Error(`${name} has no floors.`)
    const to = (from: string, room: string, file: string) => `${'../'.repeat(from.split('/').length)}${room}/${file}`
    expect(said(`packages/${name}/src/${ground.room}/wrong.ts`, to(ground.room, top.room, 'index.ts'))).toEqual([
      `noRestrictedImports: ${ground.room} stands on nothing of this package: docs/structure.md`,
    ])
    const door = to(low.room, low.on[0] ?? '', 'index.ts')
    expect(said(`packages/${name}/src/${low.room}/wrong.ts`, door)).toEqual([])
    expect(said(`packages/${name}/src/${low.room}/wrong.ts`, door.replace('index.ts', 'within.ts'))).toEqual([
      `noRestrictedImports: ${low.room} stands on ${low.on.join(', ')} only, by their doors (index.ts): docs/structure.md`,
    ])
    expect(said(`packages/${name}/src/wrong.ts`, `./${ground.room}/within.ts`)).toEqual([
      'noRestrictedImports: Rooms are asked by their doors (index.ts): docs/structure.md',
    ])
  })
  it.each(['core', 'xml', 'contract', 'web'])('of Node fails in %s', (name) => {
    expect(said(`packages/${name}/src/wrong.ts`, 'node:fs')).toEqual([expect.stringMatching(/^noNodejsModules: /)])
  })
  it.each(['core', 'xml', 'contract', 'media', 'demo', 'server', 'web', 'command'])('of what %s does not declare fails', (name) => {
    expect(said(`packages/${name}/src/wrong.ts`, 'left-out')).toEqual([
      `noUndeclaredDependencies: Dependency left-out isn't specified in packages/${name}/package.json.`,
    ])
  })
})

/** What the type check says of code in the place of a file of a package. */
const typesSay = (name: string, code: string): string => {
  // Within the project, so that its packages are found.
  mkdirSync(join(home, '.naranja'), { recursive: true })
  const place = mkdtempSync(join(home, '.naranja', 'types '))
  writeFileSync(join(place, 'wrong.ts'), `${code}\nexport {}\n`)
  writeFileSync(join(place, 'tsconfig.json'), JSON.stringify({ extends: join(home, 'packages', name, 'tsconfig.json'), include: [], files: ['wrong.ts'] }))
  const { stdout } = spawnSync(join(home, 'node_modules/.bin/tsc'), ['--noEmit', '-p', place], { encoding: 'utf8', cwd: join(home, 'packages', name) })
  rmSync(place, { recursive: true })
  return stdout
}
it.each(['core', 'xml', 'contract'])('%s can reach neither what Node has nor what a page has', (name) => {
  expect(typesSay(name, 'Math.min(1, 2)')).toBe('')
  const out = ['process', 'Buffer', 'setTimeout', 'document', 'fetch', 'console']
  const said = typesSay(name, out.map((o) => `void ${o}`).join('\n'))
  for (const o of out) expect(said).toContain(`Cannot find name '${o}'`)
})
it('the page can reach nothing that Node alone has', () => {
  expect(typesSay('web', 'void document')).toBe('')
  const said = typesSay('web', 'void process\nvoid Buffer')
  for (const o of ['process', 'Buffer']) expect(said).toContain(`Cannot find name '${o}'`)
})
