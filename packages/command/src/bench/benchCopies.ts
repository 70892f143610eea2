/** The figures of edit copies: against plain ffmpeg, cp, and one worker; what the queue costs; how right its time left is. */
import { spawn } from 'node:child_process'
import { copyFile, mkdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { type Spec, sizeUnder, specOf } from '@naranja/core/specs'
import { cameras, demoClips, sequenceFirst } from '@naranja/demo'
import { bt709, colourArgs, ffmpeg, makeCopies, scaleFilter, videoArgs } from '@naranja/media'
import { copyJobOf } from '@naranja/media/testing'
import { tiedTo } from '@naranja/media/process'
import { TaskEntity } from '@naranja/server/records'
import { insertTasks, openStore, waitingTask } from '@naranja/server/store'
import { execa } from 'execa'
import { Client } from '../client/index.ts'
import { emptied, type Figure, median, spread, stopwatch, takeIn, timed } from './benchTools.ts'
import { during, Instance } from '../instance/index.ts'
import { home, serving, step } from '../base/index.ts'

/** Demo clips, and some of them again, so that there are forty with a picture. */
const forty = [...demoClips, ...demoClips.filter((c) => c.camera !== 'telescope').slice(0, Math.max(0, 40 - demoClips.length))]

/** The folders that hold forty originals: the demo's volumes, and one more. */
async function originals(volumes: string): Promise<string[]> {
  const more = await emptied('more originals')
  for (const c of forty.slice(demoClips.length)) {
    const folder = join(more, c.volume, c.folder)
    await mkdir(folder, { recursive: true })
    await copyFile(join(volumes, c.volume, c.folder, c.name), join(folder, c.name))
  }
  return [volumes, more]
}

/** One plain ffmpeg after another with the settings of a spec. What is raw is developed first, picture by picture, as a script would. */
async function plainLoop(spec: Spec, volumes: string, what: string): Promise<void> {
  const plain = await emptied('plain')
  for (const [i, c] of forty.entries()) {
    step(`${what}: one ffmpeg after another, ${i + 1} of ${forty.length}`)
    const camera = cameras[c.camera]
    const folder = join(volumes, c.volume, c.folder)
    const sequence = ['-framerate', '25', '-start_number', String(sequenceFirst), '-i', join(plain, `${c.name}%04d.ppm`)]
    if (c.camera === 'telescope')
      for (let n = sequenceFirst, held = ''; n < sequenceFirst + c.frames; n++) {
        const ppm = join(plain, `${c.name}${n}.ppm`)
        const made = await execa('dcraw_emu', ['-w', '-o', '1', '+M', '-6', '-Z', '-', join(folder, `${c.name}${n}.dng`)], {
          encoding: 'buffer',
          reject: false,
          maxBuffer: 1e9,
        })
        if (made.failed) await copyFile(held, ppm)
        else await writeFile(ppm, made.stdout)
        held = ppm
      }
    const picture = ['-map', '0:v:0', '-vf', scaleFilter(sizeUnder(spec, camera), 'bt709'), ...videoArgs(spec), ...colourArgs(bt709)]
    const input = c.camera === 'telescope' ? sequence : ['-i', join(folder, c.name)]
    // As a script runs it: nothing of what we put around a program that makes media.
    await execa('ffmpeg', ['-y', '-nostdin', '-v', 'error', ...input, ...picture, '-map', '0:a?', '-c:a', 'pcm_s16le', join(plain, `${i}.mov`)])
  }
}

/** A spec like one that ships, checked as said. */
async function specLike(client: Client, code: string, check: Spec['check'], name: string): Promise<string> {
  const like = (await client.ask('specs', {})).find((s) => s.code === code)
  if (!like) throw new Error(`The spec ${code} is missing.`)
  const { code: _code, version: _version, isDefault: _default, shipped: _shipped, copies: _copies, older: _older, ...draft } = like
  return (await client.ask('addSpec', { ...draft, kind: 'proxy', check, name })).code
}

/** Copies of everything below these folders: what it takes, and how far off the time left was that is told at a share of the way (`guessAt`). */
async function make(
  client: Client,
  folders: readonly string[],
  specs: readonly string[],
  what: string,
  guessAt: readonly number[] = [],
): Promise<{ milliseconds: number; errors: number[] }> {
  const { project } = await takeIn(client, what, folders)
  const target = await client.ask('openVolume', { path: await emptied(`copies of ${what}`) })
  const errors: number[] = []
  const guesses: { at: number; left: number }[] = []
  const wanted = [...guessAt]
  const began = performance.now()
  const watch = stopwatch()
  const started = await client.ask('makeCopies', { projectId: project.id, specs: [...specs], volumeId: target.id, folder: '' })
  const looking = setInterval(async () => {
    if (wanted[0] === undefined) return
    const b = await client.ask('batch', started.batchId).catch(() => null)
    if (b?.left && wanted[0] !== undefined && b.share >= wanted[0]) {
      wanted.shift()
      guesses.push({ at: performance.now() - began, left: b.left * 1000 })
    }
  }, 250)
  const tasks = await client.finish(started, (share) => step(`${what}: ${Math.round(share * 100)} %`))
  const [milliseconds, end] = [watch(), performance.now()]
  clearInterval(looking)
  const failed = tasks.find((t) => t.state !== 'done')
  if (failed) throw new Error(`${failed.label}: ${failed.error}`)
  for (const g of guesses) errors.push(Math.abs(g.at + g.left - (end - began)) / (end - began - g.at))
  return { milliseconds, errors }
}

const checks = {
  'every-frame': { said: 'every frame read back', goal: 0.95 },
  'six-frames': { said: 'six frames read back', goal: 0.85 },
} as const

/**
 * Forty mixed originals to one spec with each of these checks, against a plain ffmpeg loop with the same settings: all in turn, three times, the median
 * with its spread.
 */
export async function copiesAgainstLoop<C extends keyof typeof checks>(client: Client, volumes: string, wanted: readonly C[]): Promise<Record<C, Figure>> {
  const folders = await originals(volumes)
  const spec = specOf('h264-proxy-720') as Spec
  const kinds: { check: C; code: string; ratios: number[] }[] = []
  for (const check of wanted) kinds.push({ check, code: await specLike(client, spec.code, check, `Bench ${check}`), ratios: [] })
  for (const round of [1, 2, 3]) {
    const took: number[] = []
    for (const { check, code } of kinds) took.push((await make(client, folders, [code], `copies ${check} ${round}`)).milliseconds)
    const plain = await timed(() => plainLoop(spec, volumes, `round ${round}`))
    for (const [i, k] of kinds.entries()) k.ratios.push((took[i] ?? 0) / plain)
    step(`round ${round}: ${[...took, plain].map((ms) => `${(ms / 1000).toFixed(1)} s`).join(', ')}`)
  }
  const figure = ({ check, ratios }: (typeof kinds)[number]): Figure => ({
    name: `40 mixed originals to one spec, ${checks[check].said}, against a plain ffmpeg loop (${spread(ratios)})`,
    value: median(ratios),
    goal: checks[check].goal,
    unit: 'ratio',
  })
  return Object.fromEntries(kinds.map((k) => [k.check, figure(k)])) as Record<C, Figure>
}

/** Two specs from one decode, against two plain loops. */
export async function twoSpecs(client: Client, volumes: string): Promise<Figure> {
  const folders = await originals(volumes)
  const specs = ['h264-proxy-720', 'prores-proxy-1080'].map((c) => specOf(c) as Spec)
  const codes = await Promise.all(specs.map((s) => specLike(client, s.code, 'six-frames', `Bench two ${s.name}`)))
  const ours = (await make(client, folders, codes, 'two specs')).milliseconds
  let baseline = 0
  for (const s of specs) baseline += await timed(() => plainLoop(s, volumes, s.name))
  return { name: '40 mixed originals to two specs from one decode, against two plain ffmpeg loops', value: ours / baseline, goal: 0.78, unit: 'ratio' }
}

/** How far off the time left is that a batch tells at a tenth and at half of the way. */
export async function timeLeft(client: Client, volumes: string): Promise<Figure> {
  await make(client, [volumes], ['h264-proxy-720'], 'learning the speed')
  const { errors } = await make(client, [volumes], ['h264-proxy-720'], 'time left', [0.1, 0.5])
  if (errors.length < 2) throw new Error('The batch ended before its time left was told twice.')
  return { name: "time left of the demo's batch, off at a tenth or at half of the way", value: Math.max(...errors), goal: 0.2, unit: 'ratio' }
}

/** Moving streams into a new file, stream hashes left out, against cp --reflink=never; both to the disk. */
export async function rewrapping(): Promise<Figure> {
  const dir = await emptied('rewrapping')
  const files = ['a', 'b', 'c'].map((n) => join(dir, `${n}.mov`))
  for (const [i, f] of files.entries()) {
    step(`Writing an original: ${i + 1} of ${files.length}`)
    await ffmpeg([
      '-y',
      '-f',
      'lavfi',
      '-i',
      `testsrc2=s=1920x1080:r=25,noise=alls=40:allf=t:all_seed=${i + 1}`,
      '-frames:v',
      '120',
      '-c:v',
      'prores',
      '-profile:v',
      '3',
      f,
    ])
  }
  const ratios: number[] = []
  // The first round meets a disk that has just been written to.
  for (const round of [0, 1, 2, 3, 4, 5, 6, 7]) {
    step(`Rewrapping, round ${round} of 7`)
    const [to, plain] = [join(dir, `to ${round}`), join(dir, `plain ${round}`)]
    await Promise.all([mkdir(to), mkdir(plain)])
    const ours = await timed(async () => {
      for (const [i, f] of files.entries())
        await ffmpeg(['-y', '-i', f, '-map', '0', '-c', 'copy', '-timecode', '10:00:00:00', '-f', 'mov', join(to, `${i}.mov`)])
      await execa('sync', ['-f', to])
    })
    const baseline = await timed(async () => {
      for (const [i, f] of files.entries()) await execa('cp', ['--reflink=never', f, join(plain, `${i}.mov`)])
      await execa('sync', ['-f', plain])
    })
    if (round > 0) ratios.push(ours / baseline)
    await Promise.all([rm(to, { recursive: true }), rm(plain, { recursive: true })])
  }
  return {
    name: `rewrapping, stream hashes left out, against cp --reflink=never (${spread(ratios)})`,
    value: median(ratios),
    goal: 1.3,
    unit: 'ratio',
  }
}

const tiny = 80
const atOnce = 10
/** Milliseconds that a copy takes longer through the queue than made directly, perhaps with ten thousand other tasks waiting. */
export async function queueOverhead(client: Client, instance: Instance, waiting: number): Promise<Figure> {
  const dir = await emptied('tiny')
  const one = join(dir, 'T0000.mov')
  await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=25', '-frames:v', '3', '-c:v', 'mjpeg', '-timecode', '10:00:00:00', one])
  for (let i = 1; i < tiny; i++) await copyFile(one, join(dir, `T${String(i).padStart(4, '0')}.mov`))
  const spec = specOf('h264-proxy-720') as Spec
  const plain = await emptied('tiny plain')
  // What is known of the clips is known to the queue as well.
  const jobs = await Promise.all(Array.from({ length: tiny }, (_, i) => copyJobOf(join(dir, `T${String(i).padStart(4, '0')}.mov`), [spec], plain)))
  const { project } = await takeIn(client, 'tiny', [dir])
  const limit = async (n: number) => {
    const [m] = await client.ask('queue', {}).then((q) => q.machines)
    if (m) await client.ask('setLimit', { name: m.name, limit: n })
  }
  await limit(1)
  const db = waiting ? await openStore(instance.config) : null
  try {
    if (db) {
      step(`Putting ${waiting} tasks into the queue`)
      const of = { projectId: project.id, batchId: project.id, batchLabel: 'waiting', kind: 'copy' as const, payload: {}, needs: null, who: 'bench' }
      await insertTasks(
        db.manager,
        Array.from({ length: waiting }, (_, i) => waitingTask({ ...of, label: `w${i}`, total: 1, unit: 'frames', cost: 1, place: i, priority: -1 })),
      )
    }
    const target = await client.ask('openVolume', { path: await emptied('tiny copies') })
    const clips = (await client.ask('clips', { projectId: project.id, limit: 500 })).rows.map((c) => c.id)
    const [direct, queued]: [number[], number[]] = [[], []]
    // In turn, for whatever else the machine does slows both.
    for (let from = 0; from < tiny; from += atOnce) {
      step(`Tiny copies: ${from} of ${tiny}`)
      await client.ask('pause', { paused: true })
      for (const job of jobs.slice(from, from + atOnce)) direct.push(await timed(() => makeCopies(job, 'bench', 1000)))
      await client.ask('pause', { paused: false })
      const began = performance.now()
      const ask = { specs: [spec.code], volumeId: target.id, folder: '', clipIds: clips.slice(from, from + atOnce) }
      const started = await client.ask('makeCopies', { projectId: project.id, ...ask })
      const setGoing = (performance.now() - began) / atOnce
      const tasks = await client.finish(started)
      const failed = tasks.find((t) => t.state !== 'done')
      if (failed) throw new Error(failed.error)
      const ends = tasks.map((t) => Date.parse(t.ended ?? '')).sort((x, y) => x - y)
      queued.push(...ends.slice(1).map((t, i) => t - (ends[i] ?? 0) + setGoing))
    }
    if (db) await db.getRepository(TaskEntity).delete({ batchId: project.id })
    return {
      name: `what the queue adds to a copy${waiting ? `, ${waiting.toLocaleString('en')} others waiting` : ''}, in ms`,
      value: median(queued) - median(direct),
      goal: 50,
      unit: 'ms',
    }
  } finally {
    await db?.destroy()
    await limit(2)
  }
}

/** Two worker processes with one thread each against one: each keeps to a core of its own. */
export async function twoWorkers(): Promise<Figure> {
  const dir = await emptied('workers')
  for (let i = 0; i < 12; i++) {
    step(`Writing an original: ${i + 1} of 12`)
    await ffmpeg([
      '-y',
      '-f',
      'lavfi',
      '-i',
      `testsrc2=s=1280x720:r=25,hue=h=${30 * i}`,
      '-frames:v',
      '75',
      '-c:v',
      'prores',
      join(dir, `W${String(i).padStart(3, '0')}.mov`),
    ])
  }
  const folder = await emptied('workers instance')
  const instance = new Instance('bench workers', { roots: [], parents: [], folder, concurrency: 1, through: ['taskset', '-c', '0'] })
  return during(instance, async () => {
    const client = new Client(instance.address, instance.config.key)
    const one: number[] = []
    const two: number[] = []
    const round = async (list: number[], what: string) => list.push((await make(client, [dir], ['h264-proxy-720'], `${what} ${list.length + 1}`)).milliseconds)
    await round([], 'warming up')
    for (let i = 0; i < 2; i++) await round(one, 'one worker')
    const [file, ...words] = tiedTo(process.pid, ['taskset', '-c', '1', ...(await serving('worker', folder))], 'TERM')
    const second = spawn(file, words, { cwd: home, stdio: 'ignore' })
    for (let i = 0; i < 100; i++) {
      if ((await client.ask('queue', {})).workers === 2) break
      await new Promise((r) => setTimeout(r, 100))
    }
    for (let i = 0; i < 2; i++) await round(two, 'two workers')
    second.kill('SIGTERM')
    return { name: 'two worker processes with one thread each, against one', value: median(two) / median(one), goal: 0.55, unit: 'ratio' as const }
  })
}
