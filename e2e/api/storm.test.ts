/**
 * The whole job while processes are killed at random moments, disks fill and empty, and drives go and come. In the end every file is right, nothing is
 * there twice, nothing temporary is left, and what was acknowledged stands in the history, once. `NARANJA_FAULTS` says how many faults
 * (`./naranja test --faults N`), `NARANJA_SEED` which.
 */
import { execFileSync } from 'node:child_process'
import { closeSync, mkdirSync, openSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import { chance } from '@naranja/command/jobs'
import { dataFolder } from '@naranja/command/paths'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, makeClip, readCodes, type Running, startInstance, until } from '../support.ts'

const wanted = Number(process.env.NARANJA_FAULTS) || 24
const seed = Number(process.env.NARANJA_SEED) || 20_261_130
const random = chance(seed)
const parent = emptyFolder('storm media')
const [drive, out] = [join(parent, 'Drive'), join(parent, 'Out')]
const size = { width: 320, height: 180 }
const raster = { width: 640, height: 360 }
const [clips, frames] = [6, 60]
let app: Running
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))

// ---- what goes wrong

const roles = ['worker', 'api', 'redis', 'mariadb'] as const
type Fault = (typeof roles)[number] | 'ffmpeg' | 'machine' | 'full disk' | 'drive away' | 'target away'
const kinds: readonly Fault[] = [...roles, 'ffmpeg', 'machine', 'full disk', 'drive away', 'target away']
/** How often what was hit, and what was under way then. */
const hits: Record<string, Record<string, number>> = {}
let doing = 'nothing'
let done = 0

/** A process of FFmpeg's that works for this instance. */
function someFfmpeg(): number | null {
  const mine = new Set(roles.map((r) => app.instance.pid(r)))
  const found = readdirSync('/proc').filter((n) => {
    if (!/^\d+$/.test(n)) return false
    try {
      const stat = readFileSync(`/proc/${n}/stat`, 'latin1')
      return stat.includes('(ffmpeg)') && mine.has(Number(stat.slice(stat.lastIndexOf(')') + 4).split(' ')[0]))
    } catch {
      return false
    }
  })
  return found.length ? Number(found[random.whole(0, found.length - 1)]) : null
}
const kill = (pid: number | undefined | null): boolean => {
  try {
    return pid ? process.kill(pid, 'SIGKILL') : false
  } catch {
    return false
  }
}
/** Writes until nothing more goes on the disk. */
function fill(): void {
  const file = openSync(join(parent, 'filler'), 'w')
  try {
    for (const some = Buffer.alloc(500_000); ; ) writeSync(file, some)
  } catch {
    // That is what was wanted.
  }
  closeSync(file)
}
async function away(folder: string): Promise<boolean> {
  renameSync(folder, `${folder} (unplugged)`)
  await pause(400 + random.whole(0, 2200))
  // Something that still wrote below the old path would have made it anew: nothing may.
  renameSync(`${folder} (unplugged)`, folder)
  return true
}
async function strike(fault: Fault): Promise<boolean> {
  switch (fault) {
    case 'ffmpeg':
      for (let i = 0; i < 40; i++) {
        if (kill(someFfmpeg())) return true
        await pause(100)
      }
      return false
    case 'machine':
      return roles.map((r) => kill(app.instance.pid(r))).some(Boolean)
    case 'full disk':
      fill()
      await pause(300 + random.whole(0, 2500))
      rmSync(join(parent, 'filler'))
      return true
    case 'drive away':
      return away(drive)
    case 'target away':
      return away(out)
    default:
      return kill(app.instance.pid(fault))
  }
}

/**
 * Waits until every process is up again, and as long once more, for work to get on: how long that takes is the machine's affair, and where
 * faults came faster than that nothing would ever be done that they could hit.
 */
async function breathe(over: () => boolean): Promise<void> {
  const began = Date.now()
  const up = () =>
    app.client.ask('queue', {}).then(
      (q) => q.workers === 1,
      () => false,
    )
  while (!over() && !(await up())) await pause(100)
  await pause(Date.now() - began)
}

/** Lets faults happen until there were enough, every kind in turn in an order that chance picks; after each turn is a breath. */
async function storm(over: () => boolean): Promise<void> {
  let bag: Fault[] = []
  while (done < wanted && !over()) {
    await pause(150 + random.whole(0, 1800))
    if (bag.length === 0) {
      if (done > 0) await breathe(over)
      bag = [...kinds]
    }
    const [fault] = bag.splice(random.whole(0, bag.length - 1), 1)
    if (!fault) continue
    const during = doing
    if (!(await strike(fault))) continue
    done++
    const row = hits[fault] ?? {}
    hits[fault] = { ...row, [during]: (row[during] ?? 0) + 1 }
  }
}

// ---- what a person does, who looks and tries again

/** What an answer is, once there is one; asked again while the application starts anew, or says that it cannot now. */
async function sure<T>(ask: () => Promise<T>): Promise<T> {
  for (const began = Date.now(); ; ) {
    try {
      return await ask()
    } catch (e) {
      if (Date.now() - began > 120_000) throw e
      await pause(150)
    }
  }
}
/** Tries something that may be refused, or whose answer may be lost: whether it was done is seen afterwards. */
let refused = ''
const tryTo = (act: () => Promise<unknown>): Promise<unknown> =>
  act().catch((e) => {
    refused = String(e)
    return pause(100)
  })

/** Brings something about: looks, does what is to be done where nothing is under way, and looks again. */
async function bringAbout(what: string, project: string, kind: string, reached: () => Promise<boolean>, act: () => Promise<unknown>): Promise<void> {
  doing = what
  for (const began = Date.now(); ; ) {
    if (await sure(reached)) return
    const { tasks, batches } = await sure(() => app.client.ask('queue', { projectId: project }))
    const mine = tasks.filter((t) => t.kind === kind)
    if (!mine.some((t) => ['waiting', 'running', 'held'].includes(t.state))) {
      const failed = batches.filter((b) => b.kind === kind && b.failed + b.cancelled > 0)
      if (failed.length) for (const b of failed) await tryTo(() => app.client.ask('retryBatch', b.id))
      else await tryTo(act)
    }
    if (Date.now() - began > 180_000)
      throw new Error(`${what} did not come about: ${JSON.stringify(mine.map((t) => [t.label, t.state, t.error]))}; refused last: ${refused}`)
    await pause(250)
  }
}

const names = Array.from({ length: clips }, (_, i) => `A001C00${i + 1}.mov`)
const list = names
  .map((n, i) => {
    const record = (f: number) => `01:00:${String(Math.floor(f / 25)).padStart(2, '0')}:${String(f % 25).padStart(2, '0')}`
    return `00${i + 1}  A001     V     C        10:0${i + 1}:00:10 10:0${i + 1}:01:10 ${record(i * 25)} ${record(i * 25 + 25)}\n* FROM CLIP NAME: ${n}\n`
  })
  .join('')

/** Files below a folder, by their paths in it. */
const below = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true })
    .filter((e) => e.isFile())
    .map((e) => join(e.parentPath, e.name).slice(folder.length + 1))
    .sort()

/** One job from nothing to a master, and what of it is not right. */
async function job(n: number): Promise<string[]> {
  const { client } = app
  const name = `Storm ${n}`
  const all = () => client.ask('projects')
  doing = 'a new project'
  const mine = async () => (await sure(all)).find((p) => p.name === name)
  while (!(await mine())) await tryTo(() => client.ask('createProject', { name, rate: '25', ...raster }))
  const project = (await mine())?.id ?? ''
  const volumes = await sure(async () => {
    const here = (await client.ask('volumes', {})).filter((v) => v.here)
    const [d, o] = [here.find((v) => v.label === 'Drive'), here.find((v) => v.label === 'Out')]
    if (!d || !o) throw new Error('A volume is away.')
    return { drive: d.id, out: o.id }
  })
  const page = () => client.ask('clips', { projectId: project })
  const takeIn = () => client.ask('takeIn', { projectId: project, folders: [{ volumeId: volumes.drive, ref: '' }] })
  await bringAbout('taking in', project, 'take-in', async () => (await page()).total === clips, takeIn)

  doing = 'describing'
  const first = (await sure(page)).rows[0]?.id ?? ''
  const notes = 8
  for (let k = 1; k <= notes; k++) {
    const note = async () => (await page()).rows.find((r) => r.id === first)?.notes ?? null
    const value = `note ${k}`
    const edits = [{ clipId: first, field: 'notes', before: k === 1 ? null : `note ${k - 1}`, value }]
    while ((await sure(note)) !== value) await tryTo(() => client.askAnything('describe', { projectId: project, edits }))
  }

  const copies = () => client.ask('copies', project)
  const copied = async () => (await copies()).filter((c) => c.state === 'checked').length === clips
  await bringAbout('copies', project, 'copy', copied, () =>
    client.ask('makeCopies', { projectId: project, specs: ['prores-proxy-1080'], volumeId: volumes.out, folder: `${name}/copies` }),
  )

  doing = 'a cut'
  const cuts = () => client.ask('cuts', project)
  const files = [{ name: 'storm.edl', base64: Buffer.from(list).toString('base64') }]
  while ((await sure(cuts)).length === 0) await tryTo(() => client.ask('importCut', { projectId: project, files }))
  const cut = (await sure(cuts))[0]?.id ?? ''

  const pulls = () => client.ask('pulls', cut)
  const pulled = async () => (await pulls()).filter((p) => p.state === 'checked').length === clips
  await bringAbout('pulls', project, 'pull', pulled, () => client.ask('makePulls', { cutId: cut, volumeId: volumes.out, folder: `${name}/pulls`, handles: 4 }))
  const masters = () => client.ask('masters', project)
  const verified = async () => (await masters()).some((m) => m.state === 'verified')
  await bringAbout('a master', project, 'master', verified, () =>
    client.ask('renderMaster', { cutId: cut, volumeId: volumes.out, folder: `${name}/masters`, file: 'ferry' }),
  )
  doing = 'nothing'

  // What it came to, once nothing is under way.
  const wrong: string[] = []
  const right = (what: string, a: unknown, b: unknown) => {
    if (JSON.stringify(a) !== JSON.stringify(b))
      wrong.push(`${name}: ${what}: ${JSON.stringify(a)?.slice(0, 400)} instead of ${JSON.stringify(b)?.slice(0, 400)}`)
  }
  check.push(async () => {
    right('clips', (await sure(page)).rows.map((r) => r.name).sort(), names)
    right(
      'copies',
      (await sure(copies)).map((c) => [c.clip, c.state]).sort(),
      names.map((f) => [f, 'checked']),
    )
    right('cuts', (await sure(cuts)).length, 1)
    right(
      'pulls',
      (await sure(pulls)).map((p) => [p.state, p.range]),
      names.map(() => ['checked', { in: 6, out: 39 }]),
    )
    right(
      'masters',
      (await sure(masters)).map((m) => m.state),
      ['verified'],
    )
    const at = join(out, name)
    const made = below(at)
    right(
      'files of copies',
      made.filter((f) => f.startsWith('copies/')),
      names.map((f) => `copies/Drive/A001/${f}`),
    )
    right(
      'files of masters',
      made.filter((f) => f.startsWith('masters/')),
      ['masters/ferry.mov'],
    )
    right('files of pulls', made.filter((f) => f.startsWith('pulls/')).length, clips)
    right(
      'other files',
      made.filter((f) => !/^(copies|masters|pulls)\//.test(f)),
      [],
    )
    for (const [i, f] of names.entries()) {
      const codes = await readCodes(join(at, 'copies/Drive/A001', f), size, [size])
      right(
        `frames of ${f}`,
        codes,
        Array.from({ length: frames }, (_, frame) => ({ clip: i + 1, frame })),
      )
    }
    for (const p of await sure(pulls)) {
      const code = names.findIndex((f) => p.name.startsWith(f.slice(0, 8))) + 1
      right(
        `frames of pull ${p.name}`,
        await readCodes(p.path, size, [size]),
        Array.from({ length: 33 }, (_, i) => ({ clip: code, frame: i + 6 })),
      )
    }
    const shown = await readCodes(join(at, 'masters/ferry.mov'), raster, [size])
    right(
      'frames of the master',
      shown,
      names.flatMap((_, i) => Array.from({ length: 25 }, (_, f) => ({ clip: i + 1, frame: f + 10 }))),
    )
    const history = (await sure(() => client.ask('changes', project))).filter((c) => /notes/i.test(c.sentence))
    right('notes in the history', history.length, notes)
    right('the note', (await sure(page)).rows.find((r) => r.id === first)?.notes, `note ${notes}`)
  })
  return wrong
}
const check: (() => Promise<void>)[] = []

beforeAll(async () => {
  // What every job made stays there to the end: some 25 MB, and the faster the machine, the fewer faults there are to a job (five, measured).
  execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${Math.max(300, 12 * wanted)}m`, 'tmpfs', parent])
  for (const [i, n] of names.entries())
    await makeClip(join(drive, 'A001', n), { code: i + 1, frames, timecode: `10:0${i + 1}:00:00`, reel: 'A001', coding: ['-c:v', 'prores', '-profile:v', '0'] })
  mkdirSync(out)
  app = await startInstance('storm', parent)
})
afterAll(async () => {
  await app?.stop()
  execFileSync('umount', ['-l', parent])
})

describe('whole jobs in a storm', () => {
  it(
    `come out right over ${wanted} faults (seed ${seed})`,
    async () => {
      let over = false
      const raging = storm(() => over)
      const wrong: string[][] = []
      try {
        for (let n = 1; done < wanted; n++) wrong.push(await job(n))
      } finally {
        over = true
        await raging
        const report = { faults: done, seed, jobs: wrong.length, hits }
        mkdirSync(dataFolder, { recursive: true })
        writeFileSync(join(dataFolder, 'faults.json'), `${JSON.stringify(report, null, 2)}\n`)
        const rows = Object.entries(hits).map(
          ([fault, at]) =>
            `  ${fault}: ${Object.entries(at)
              .map(([d, k]) => `${k} during ${d}`)
              .join(', ')}`,
        )
        console.info(`${done} faults over ${wrong.length} jobs:\n${rows.sort().join('\n')}`)
      }
      // All is calm: nothing is under way any more, and every process is there.
      await until('calm', async () => {
        const q = await sure(() => app.client.ask('queue', {}))
        return q.workers === 1 && !q.tasks.some((t) => ['waiting', 'running', 'held'].includes(t.state))
      })
      for (const c of check) await c()
      expect(wrong.flat()).toEqual([])
      await until(
        'nothing temporary',
        async () => [...below(parent), ...below(join(app.instance.folder, 'work'))].filter((f) => /\.part\b|\.tmp/.test(f)).length === 0,
        90_000,
      )
      expect(below(drive)).toEqual(names.map((f) => `A001/${f}`))
      expect(someFfmpeg()).toBeNull()
      // Where a drive was away nothing was written in its place.
      expect(readdirSync(parent).sort()).toEqual(['Drive', 'Out'])
    },
    Math.max(900_000, wanted * 30_000),
  )
})
