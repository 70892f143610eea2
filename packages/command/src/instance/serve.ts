/** `./naranja demo` and `./naranja start`: an instance in the foreground until Ctrl-C. */
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import type { FolderListing } from '@naranja/contract'
import { awayVolume, demoReader, makeDemoMedia, moveAwayCard } from '@naranja/demo'
import { Client } from '../client/index.ts'
import { Instance, instanceFolders } from './instance.ts'
import { instanceFolder } from './known.ts'
import { keepBuilding } from './watching.ts'
import { buildWeb, dataFolder, font, mediaParents, say, step, userHome, webDist } from '../base/index.ts'

/** Where the page is built that is built again as its sources are saved. */
const watchedPage = join(dataFolder, 'watched page')

/** Builds the page, and says where it stands. */
async function builtPage(watched: boolean): Promise<string> {
  const page = watched ? watchedPage : webDist
  await buildWeb(page, watched ? 'development' : 'production')
  return page
}

/** Keeps running until it is asked to end; `watched`: as it is built anew while its sources are worked on. */
async function serve(instance: Instance, watched: boolean, ready: () => Promise<void>): Promise<void> {
  const over = new Promise<void>((resolve) => {
    for (const s of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(s, () => resolve())
  })
  const began = Date.now()
  /** What ends what was begun, the last first. */
  const ends = [() => instance.stop()]
  const run = async () => {
    await instance.start()
    await ready()
    say(`Ready in ${((Date.now() - began) / 1000).toFixed(1)} s. Ctrl-C ends it.`)
    say('Open this address; it lets one browser in, once. ./naranja address makes one for another.')
    process.stdout.write(`${await Instance.addressOf(instance.config)}\n`)
    if (watched) {
      ends.unshift(await keepBuilding(instance, watchedPage))
      say('What is saved below packages/*/src is built at once.')
    }
    await over
  }
  try {
    await Promise.race([run(), over])
    say('Stopping ...')
  } finally {
    for (const end of ends) await end()
  }
}

async function alreadyRunning(name: string): Promise<boolean> {
  const running = await Instance.running(name)
  if (!running) return false
  say('It is running already.')
  process.stdout.write(`${await Instance.addressOf(running.config)}\n`)
  return true
}

/** The demo's project, its originals taken in, its cut imported, one card taken out. */
export async function setUpDemo(client: Client, volumesFolder: string): Promise<string> {
  const projects = await client.ask('projects')
  for (const p of projects) await client.ask('removeProject', p.id)
  await moveAwayCard(volumesFolder, false)
  const project = await client.ask('createProject', { name: 'The Salt Ferry', rate: '25', width: 1920, height: 1080 })
  const wanted = new Set(await readdir(volumesFolder))
  const volumes = (await client.ask('volumes', {})).filter((v) => wanted.has(v.label))
  const folders: { volumeId: string; ref: string }[] = []
  let cutFolder: FolderListing | null = null
  for (const v of volumes) {
    if (v.label !== 'Quay drive') folders.push({ volumeId: v.id, ref: '' })
    else
      for (const e of (await client.ask('folder', { volumeId: v.id })).entries) {
        if (/^(Day|Sound)/.test(e.name)) folders.push({ volumeId: v.id, ref: e.ref })
        if (e.name === 'Cut') cutFolder = await client.ask('folder', { volumeId: v.id, ref: e.ref })
      }
  }
  const started = await client.ask('takeIn', { projectId: project.id, folders })
  const tasks = await client.finish(started, (share) => step(`Taking in the demo's originals: ${Math.round(share * 100)} %`))
  const failed = tasks.find((t) => t.state !== 'done')
  if (failed) throw new Error(`The demo's originals could not be taken in: ${failed.error}`)
  const file = (ending: string) => cutFolder?.entries.find((e) => e.name.endsWith(ending))
  const edl = file('.edl')
  const reference = file('.mov')
  if (!cutFolder || !edl || !reference) throw new Error('The demo has no cut list.')
  await client.ask('importCut', {
    projectId: project.id,
    name: 'Ferry cut 3',
    files: [{ volumeId: cutFolder.volumeId, ref: edl.ref }],
    reference: { volumeId: cutFolder.volumeId, ref: reference.ref },
  })
  await moveAwayCard(volumesFolder, true)
  return project.id
}

/** `--watch` builds again what is saved. */
export async function demo(args: string[] = []): Promise<void> {
  const { watch } = parseArgs({ args, options: { watch: { type: 'boolean', default: false } } }).values
  if (await alreadyRunning('demo')) return
  const folder = instanceFolder('demo')
  const web = await builtPage(watch)
  const { fresh } = await makeDemoMedia({ folder, font, onStep: (done, total, what) => step(`Making the demo's media: ${done + 1} of ${total} (${what})`) })
  if (fresh) rmSync(join(folder, 'demo.json'), { force: true })
  const volumes = join(folder, 'volumes')
  const instance = new Instance('demo', {
    roots: [{ path: userHome(), label: 'Home' }],
    parents: [volumes],
    mounts: mediaParents(),
    reader: demoReader(volumes),
    web,
  })
  await serve(instance, watch, async () => {
    const done = join(folder, 'demo.json')
    if (existsSync(done) && readFileSync(done, 'utf8') === 'set up') return
    await setUpDemo(new Client(instance.address, instance.config.key), volumes)
    writeFileSync(done, 'set up')
    say(`"${awayVolume}" is out of its reader, as it may be on any morning: its clips stand as away.`)
  })
}

/** `--listen [PORT]` opens a door for workers on other machines; `--watch` builds again what is saved. */
export async function start(given: string[] = []): Promise<void> {
  const watch = given.includes('--watch')
  const args = given.filter((a) => a !== '--watch')
  const at = args.indexOf('--listen')
  const port = at < 0 ? null : Number(args[at + 1] ?? 0)
  const other = args.filter((_, i) => at < 0 || (i !== at && i !== at + 1))[0]
  if (other !== undefined || (port !== null && !(Number.isInteger(port) && port >= 0 && port < 65536)))
    throw new Error(`"${other ?? args[at + 1]}" is not an option of start. Write it as: ./naranja start [--listen [PORT]] [--watch]`)
  if (await alreadyRunning('own')) return
  const web = await builtPage(watch)
  const options = { roots: [{ path: userHome(), label: 'Home' }], parents: [], mounts: mediaParents(), web }
  const instance = new Instance('own', port === null ? options : { ...options, listen: { host: '0.0.0.0', port } })
  await serve(instance, watch, async () => {
    if (port !== null) say('Workers on other machines may join it: ./naranja worker --new NAME makes an address for each.')
  })
}

/** A new address for each instance that runs: for a second browser, or one that has forgotten. */
export async function address(): Promise<number> {
  let any = false
  for (const name of ['own', 'demo']) {
    const running = await Instance.running(name)
    if (!running) continue
    any = true
    process.stdout.write(`${await Instance.addressOf(running.config)}\n`)
  }
  if (!any) say('Nothing is running. Start it by ./naranja start, or ./naranja demo.')
  return any ? 0 : 1
}

export async function stop(): Promise<void> {
  let any = false
  for (const folder of instanceFolders()) any = (await Instance.stop(folder)) || any
  say(any ? 'Stopped.' : 'Nothing was running.')
}
