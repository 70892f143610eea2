/** Volumes: what they are known by, how they come and go, and the card reader that ships with the application. */
import { createHash } from 'node:crypto'
import { execFileSync, spawn } from 'node:child_process'
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, symlinkSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { serving } from '@naranja/command/built'
import { home } from '@naranja/command/paths'
import { ffmpeg } from '@naranja/media'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { emptyFolder, hasDisks, importText, makeClip, projectOn, ref, type Running, startInstance, until } from '../support.ts'

const folder = emptyFolder('volumes')
const parent = join(folder, 'media')
const drawer = join(folder, 'drawer')
let app: Running

beforeAll(async () => {
  mkdirSync(join(parent, 'Shelf/Day 1'), { recursive: true })
  await makeClip(join(parent, 'Shelf/Day 1/S001C001.mov'), { code: 1, frames: 10, timecode: '09:00:00:00' })
  for (const n of [1, 2]) await makeClip(join(drawer, `Card ${n}/CLIPS/C00${n}.mov`), { code: n + 1, frames: 10, timecode: `1${n}:00:00:00` })
  app = await startInstance('volumes', parent, { drawer, slots: parent })
})
afterAll(() => app.stop())

const mounted: string[] = []
afterEach(() => {
  for (const m of mounted.splice(0)) execFileSync('umount', [m])
})
const mount = (image: string, at: string): void => {
  mkdirSync(at, { recursive: true })
  execFileSync('mount', ['-o', 'loop', image, at])
  mounted.push(at)
}
const unmount = (at: string): void => {
  execFileSync('umount', [at])
  mounted.splice(mounted.indexOf(at), 1)
}
const format = (image: string, label: string): void => {
  execFileSync('truncate', ['-s', '24M', image])
  execFileSync('mkfs.ext4', ['-q', '-F', '-L', label, image])
}
const volumes = () => app.client.ask('volumes', {})
const named = async (label: string) => (await volumes()).find((v) => v.label === label)
const rows = async (project: string) => (await app.client.ask('clips', { projectId: project })).rows
const card = (name: string, action: string) => app.client.askAnything('card', { name, action })

describe.runIf(hasDisks)('a volume with a file system of its own', () => {
  it('that a typed path stands on is the mount, not the folder that was typed; another path on it is the same volume', async () => {
    const image = join(folder, 'typed.img')
    format(image, 'Typed disk')
    const at = join(parent, 'Deep', 'Typed')
    mkdirSync(at, { recursive: true })
    mount(image, at)
    for (const name of ['One', 'Two/Below']) mkdirSync(join(at, name), { recursive: true })
    const typed = (path: string) => app.stranger.ask('typedPlace', { path })
    const [one, two] = [await typed(join(at, 'One')), await typed(join(at, 'Two', 'Below'))]
    expect([one.folder, two.folder, two.volumeId]).toEqual(['One', 'Two/Below', one.volumeId])
    expect((await volumes()).find((v) => v.id === one.volumeId)?.path).toBe(at)
    // What is no mount of its own is a place on the volume that holds it.
    mkdirSync(join(parent, 'Deep', 'Plain'))
    const plain = await typed(join(parent, 'Deep', 'Plain'))
    expect([plain.folder, (await volumes()).find((v) => v.id === plain.volumeId)?.path]).toEqual(['Plain', join(parent, 'Deep')])
    unmount(at)
  })
  it('is known again wherever it is mounted, and its clips with it', async () => {
    const image = join(folder, 'disk.img')
    format(image, 'Travel disk')
    const [here, there] = [join(folder, 'mnt/one'), join(parent, 'two')]
    mount(image, here)
    mkdirSync(join(here, 'Day 1'))
    await makeClip(join(here, 'Day 1/T001C001.mov'), { code: 9, frames: 10, timecode: '10:00:00:00' })
    const { project, volume } = await projectOn(app.client, here, { name: 'travel' })
    expect(volume).toMatchObject({ label: 'Travel disk', knownBy: 'file-system', here: true, path: here })
    // A folder of it is a volume of its own when it is opened as one.
    const part = await app.client.ask('openVolume', { path: join(here, 'Day 1') })
    expect([part.knownBy, part.id === volume.id]).toEqual(['file-system', false])

    unmount(here)
    await until('it is away', async () => (await rows(project.id))[0]?.away === true)
    expect(await named('Travel disk')).toMatchObject({ here: false, cause: `${here} is another volume now` })
    mount(image, there)
    await until('it is here', async () => (await rows(project.id))[0]?.away === false)
    expect(await named('Travel disk')).toMatchObject({ id: volume.id, path: there, here: true, clips: 1 })
    expect((await rows(project.id))[0]?.file).toBe(join(there, 'Day 1/T001C001.mov'))
    expect(await app.client.ask('volumes', {}).then((all) => all.find((v) => v.id === part.id)?.path)).toBe(join(there, 'Day 1'))
    // Taking it in again at its new place adds nothing.
    const [task] = await app.client.finish(await app.client.ask('takeIn', { projectId: project.id, folders: [{ volumeId: volume.id, ref: '' }] }))
    expect(task?.message).toMatch(/0 taken in, 1 already here/)
  })
  it('that is formatted anew under the same name is another volume', async () => {
    const image = join(folder, 'again.img')
    const at = join(parent, 'Again')
    format(image, 'Again')
    mount(image, at)
    await makeClip(join(at, 'A.mov'), { code: 4, frames: 10, timecode: '10:00:00:00' })
    const { project, volume } = await projectOn(app.client, at, { name: 'again' })
    unmount(at)
    format(image, 'Again')
    mount(image, at)
    await makeClip(join(at, 'A.mov'), { code: 5, frames: 10, timecode: '10:00:00:00' })
    await until('two of them', async () => (await volumes()).filter((v) => v.label.startsWith('Again')).length === 2)
    const two = (await volumes()).filter((v) => v.label.startsWith('Again'))
    expect(two.map((v) => [v.label, v.id === volume.id, v.here])).toEqual([
      ['Again', true, false],
      ['Again 2', false, true],
    ])
    expect((await rows(project.id))[0]?.away).toBe(true)
  })
})

describe('a folder that vanishes from a volume that stays', () => {
  it('is seen everywhere by itself, and its clips are back when it is', async () => {
    const at = join(parent, 'Shelf')
    await makeClip(join(at, 'Day 8/S008C001.mov'), { code: 8, frames: 10, timecode: '08:00:00:00' })
    const { project } = await projectOn(app.client, at, { name: 'vanishing' })
    const away = async () => Object.fromEntries((await rows(project.id)).map((r) => [r.name, r.away]))
    await until('both here', async () => Object.values(await away()).every((x) => !x))
    renameSync(join(at, 'Day 8'), join(folder, 'Day 8 elsewhere'))
    await until('one away', async () => (await away())['S008C001.mov'] === true)
    expect((await away())['S001C001.mov']).toBe(false)
    const gone = async () => (await app.client.ask('summary', project.id)).notices.find((n) => n.code === 'gone')?.count ?? 0
    expect(await gone()).toBe(1)
    renameSync(join(folder, 'Day 8 elsewhere'), join(at, 'Day 8'))
    await until('back', async () => (await away())['S008C001.mov'] === false)
    rmSync(join(at, 'Day 8'), { recursive: true })
  })
})

describe('a file that vanishes from a folder that stays', () => {
  it('is gone in lists, notices, viewing, space and plans, and back when it is; a copy likewise', async () => {
    const at = join(parent, 'Shelf')
    const original = join(at, 'Day 9/S009C001.mov')
    await makeClip(original, { code: 9, frames: 20, timecode: '09:00:00:00', reel: 'S009' })
    await makeClip(join(at, 'Day 9/S009C002.mov'), { code: 10, frames: 20, timecode: '09:01:00:00', reel: 'S009' })
    // Clips of many files, and of sound, stand beside it.
    mkdirSync(join(at, 'Day 9/frames'))
    await ffmpeg(['-y', '-f', 'lavfi', '-i', 'testsrc=s=64x36:d=0.2', join(at, 'Day 9/frames/shot_%04d.png')])
    const { project } = await projectOn(app.client, at, { name: 'one file' })
    const clip = async () => (await rows(project.id)).find((r) => r.name === 'S009C001.mov')
    const made = { volumeId: (await named('Shelf'))?.id, folder: 'Light', specs: ['h264-proxy-720'] }
    await app.client.finish(await app.client.askAnything('makeCopies', { projectId: project.id, ...made, clipIds: [(await clip())?.id] }))
    const list =
      'TITLE: one\nFCM: NON-DROP FRAME\n\n001  S009     V     C        09:00:00:00 09:00:00:10 10:00:00:00 10:00:00:10\n* FROM CLIP NAME: S009C001.mov\n'
    const { cut } = await importText(app.client, project.id, list)
    const shown = async () => {
      const res = await app.client.response('clipStill', { clipId: (await clip())?.id ?? '', frame: 3 })
      await res.arrayBuffer()
      return res.headers.get('x-naranja-shown')
    }
    const notices = async () => (await app.client.ask('summary', project.id)).notices.filter((n) => n.code === 'gone').map((n) => n.count)
    const originals = async () =>
      (await app.client.ask('space', project.id)).volumes
        .flatMap((v) => v.kinds)
        .filter((k) => k.kind === 'originals')
        .map((k) => [k.count, k.goneCount])
    const blocked = async () => (await app.client.ask('plan', { cutId: cut.id, handles: 0 })).events.map((e) => e.block)
    // What is read from the list tells it a moment before what is worked out from it.
    const told = () => expect.poll(async () => [await shown(), await notices(), await originals(), await blocked()], { timeout: 20_000 })
    await told().toEqual(['original', [], [[4, 0]], [null]])

    renameSync(original, `${original}.aside`)
    await until('it is gone', async () => (await clip())?.gone)
    expect((await rows(project.id)).filter((r) => r.away).map((r) => r.name)).toEqual(['S009C001.mov'])
    await told().toEqual(['proxy', [1], [[3, 1]], ['its original is gone: S009C001.mov']])
    const copies = async () => (await app.client.ask('copies', project.id)).map((c) => [c.state, c.path] as const)
    const [, path] = (await copies())[0] ?? ['', '']
    renameSync(path, `${path}.aside`)
    await until('the copy is gone', async () => (await copies())[0]?.[0] === 'gone')
    expect((await clip())?.copies.map((c) => c.state)).toEqual(['gone'])

    renameSync(`${original}.aside`, original)
    await until('it is back', async () => (await clip())?.gone === false)
    await told().toEqual(['original', [], [[4, 0]], [null]])
    // A link in its place is not it, wherever it leads.
    renameSync(original, `${original}.aside`)
    symlinkSync(`${original}.aside`, original)
    await until('a link stands for it', async () => (await clip())?.gone)
    await told().toEqual([null, [1], [[3, 1]], ['its original is gone: S009C001.mov']])
    rmSync(original)
    renameSync(`${original}.aside`, original)
    await until('it is back again', async () => (await clip())?.gone === false)
    // A copy that is gone is made anew like one that was never made.
    await app.client.finish(await app.client.askAnything('makeCopies', { projectId: project.id, ...made, clipIds: [(await clip())?.id] }))
    expect(await copies()).toEqual([['checked', path]])
    rmSync(join(at, 'Day 9'), { recursive: true })
    rmSync(join(at, 'Light'), { recursive: true })
  })
})

describe('a volume without an id', () => {
  it('is known by its path, and by a marker once a person asks for one; then it can be moved', async () => {
    const shelf = await until('the shelf', () => named('Shelf'))
    expect(shelf.knownBy).toBe('path')
    const { project } = await projectOn(app.client, join(parent, 'Shelf'), { name: 'shelf' })
    expect(readdirSync(join(parent, 'Shelf'))).toEqual(['Day 1'])
    await app.client.ask('markVolume', shelf.id)
    expect(readdirSync(join(parent, 'Shelf')).sort()).toEqual(['.naranja-volume.json', 'Day 1'])
    renameSync(join(parent, 'Shelf'), join(parent, 'Other shelf'))
    await until('it is found where it is now', async () => (await named('Shelf'))?.path === join(parent, 'Other shelf'))
    expect(await named('Shelf')).toMatchObject({ id: shelf.id, knownBy: 'marker', here: true })
    expect((await rows(project.id)).map((r) => [r.away, r.file])).toEqual([[false, join(parent, 'Other shelf/Day 1/S001C001.mov')]])
    await expect(app.client.ask('markVolume', shelf.id)).rejects.toThrow(/needs no marker/)
    renameSync(join(parent, 'Other shelf'), join(parent, 'Shelf'))
    await until('it is back', async () => (await named('Shelf'))?.path === join(parent, 'Shelf'))
  })
})

describe('the card reader', () => {
  it('puts cards in and takes them out; they are known by themselves and never marked', async () => {
    expect((await app.client.ask('reader')).map((c) => [c.name, c.inside])).toEqual([
      ['Card 1', false],
      ['Card 2', false],
    ])
    await card('Card 1', 'put-in')
    const one = await until('the card', () => named('Card 1'))
    expect(one).toMatchObject({ here: true, knownBy: 'reader', removable: true })
    await expect(app.client.ask('markVolume', one.id)).rejects.toThrow(/nothing is written to cards/)
    expect(readdirSync(join(parent, 'Card 1'))).toEqual(['CLIPS'])
    const { project } = await projectOn(app.client, join(parent, 'Card 1'), { name: 'reader' })
    await card('Card 1', 'take-out')
    await until('it is away', async () => (await rows(project.id))[0]?.away === true)
    expect(existsSync(join(parent, 'Card 1'))).toBe(false)
    await card('Card 1', 'put-in')
    await until('it is here', async () => (await rows(project.id))[0]?.away === false)
    expect((await named('Card 1'))?.id).toBe(one.id)
  })
  it('gives back what is on a card to the byte and the time, however rudely it is pulled', async () => {
    const original = join(drawer, 'Card 2/CLIPS/C002.mov')
    const before = [createHash('md5').update(readFileSync(original)).digest('hex'), Math.floor(statSync(original).mtimeMs)]
    await card('Card 2', 'put-in')
    const slot = join(parent, 'Card 2/CLIPS/C002.mov')
    expect([createHash('md5').update(readFileSync(slot)).digest('hex'), Math.floor(statSync(slot).mtimeMs)]).toEqual(before)
    await card('Card 2', 'pull')
    expect(existsSync(slot)).toBe(false)
    expect([createHash('md5').update(readFileSync(original)).digest('hex'), Math.floor(statSync(original).mtimeMs)]).toEqual(before)
  })
  it('with a card formatted in it shows another volume of the same name', async () => {
    const before = await until('the card', () => named('Card 1'))
    await card('Card 1', 'format')
    const after = await until('the other card', () => named('Card 1 2'))
    expect([after.id === before.id, after.here, (await named('Card 1'))?.here]).toEqual([false, true, false])
    expect(await named('Card 1')).toMatchObject({ cause: `${join(parent, 'Card 1')} is another volume now` })
  })
  it('refuses a card it does not have', async () => {
    await expect(card('Card 9', 'put-in')).rejects.toThrow(/no card "Card 9"/)
    await expect(card('../media/Shelf', 'take-out')).rejects.toThrow(/no card/)
  })
})

describe('places', () => {
  // One of those that are away was mounted.
  it.runIf(hasDisks)('used lately are offered, pinned ones first, and those of a volume that is away say so', async () => {
    const shelf = await until('the shelf', () => named('Shelf'))
    const all = () => app.client.ask('places')
    expect((await all()).map((p) => p.label)).toContain('Shelf')
    await app.client.ask('pinPlace', { volumeId: shelf.id, ref: ref('Day 1'), pinned: true })
    expect((await all())[0]).toMatchObject({ label: 'Shelf/Day 1', pinned: true, here: true })
    expect((await all()).find((p) => p.label === 'Travel disk')).toMatchObject({ here: false, pinned: false })
    await app.client.ask('pinPlace', { volumeId: shelf.id, ref: ref('Day 1'), pinned: false })
    expect((await all()).filter((p) => p.pinned)).toEqual([])
  })
})

describe('a folder that vanishes', () => {
  it('takes its volume away, and says what was tried', async () => {
    mkdirSync(join(parent, 'Passing'))
    await until('it is seen', () => named('Passing'))
    rmSync(join(parent, 'Passing'), { recursive: true })
    await until('it is away', async () => (await named('Passing'))?.cause === `${join(parent, 'Passing')} is not there`)
    writeFileSync(join(parent, 'Passing'), 'a file')
    expect((await named('Passing'))?.cause).toBe(`${join(parent, 'Passing')} is not a folder`)
  })
})

describe.runIf(hasDisks)('two machines', () => {
  it('see the same volume under paths of their own, and both work with it', async () => {
    const image = join(folder, 'shared.img')
    format(image, 'Shared')
    const [one, other] = [join(parent, 'Shared'), join(folder, 'second machine/Elsewhere')]
    mount(image, one)
    const names = Array.from({ length: 6 }, (_, n) => `R${n + 101}`)
    for (const [n, name] of names.entries()) await makeClip(join(one, name, `${name}C001.mov`), { code: 20 + n, frames: 10, timecode: '10:00:00:00' })
    mkdirSync(other, { recursive: true })
    execFileSync('mount', ['--bind', one, other])
    mounted.push(other)
    // The second machine: a worker with a name and mounts of its own, where the first path is not there.
    const place = join(folder, 'second machine config')
    mkdirSync(place)
    const config = JSON.parse(readFileSync(join(app.instance.config.folder, 'config.json'), 'utf8'))
    writeFileSync(
      join(place, 'config.json'),
      JSON.stringify({ ...config, machine: 'second', roots: [], parents: [join(folder, 'second machine')], reader: null }),
    )
    const worker = spawn('unshare', ['--mount', 'sh', '-c', 'umount "$0" && exec "$@"', one, ...(await serving('worker', place))], {
      cwd: home,
      stdio: 'ignore',
    })
    try {
      await until('two workers', async () => (await app.client.ask('queue', {})).workers === 2)
      const project = await app.client.ask('createProject', { name: 'shared', rate: '25' })
      const volume = await app.client.ask('openVolume', { path: one })
      const tasks = await app.client.finish(
        await app.client.ask('takeIn', { projectId: project.id, folders: names.map((n) => ({ volumeId: volume.id, ref: ref(n) })) }),
      )
      expect(tasks.map((t) => [t.state, t.error])).toEqual(names.map(() => ['done', '']))
      const by = (path: string) => tasks.filter((t) => t.message.startsWith(`${path}/R`)).length
      expect(by(one)).toBeGreaterThan(0)
      expect(by(other)).toBeGreaterThan(0)
      expect(by(one) + by(other)).toBe(6)
      // Whoever took it in, here it stands where this machine sees it.
      expect((await rows(project.id)).map((r) => [r.away, r.file.startsWith(`${one}/R`)])).toEqual(names.map(() => [false, true]))
    } finally {
      const ended = new Promise((r) => worker.once('exit', r))
      worker.kill('SIGTERM')
      await ended
    }
  })
})
