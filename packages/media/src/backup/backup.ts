/**
 * A verified backup of a card in one place or more: every byte is read once and its digest taken while it is written
 * everywhere, every written file is read back from its disk and compared, and a history (ASC MHL 2.0) is written beside them.
 */
import { copyFile, lstat, mkdir, readdir, realpath, rename } from 'node:fs/promises'
import { historyFolder, type ListedFile } from '@naranja/xml/mhl'
import { below, joinBytes, lastName, pathText } from '../disk/index.ts'
import { addGeneration, readHistory } from './history.ts'
import { readCardLists } from './lists.ts'
import type { BackupOptions, BackupOutcome } from './model.ts'
import { BackupPlace, PlaceUnusable, workName } from './place.ts'
import { Run } from './run.ts'
import { scan, type Scan } from './scan.ts'

/** Brings the card's own history to a place that has none yet. */
async function carryHistory(from: Uint8Array, place: BackupPlace): Promise<void> {
  const theirs = joinBytes(from, Buffer.from(historyFolder))
  const ours = place.at(Buffer.from(historyFolder))
  if ((await lstat(ours).catch(() => null)) || !(await lstat(theirs).catch(() => null))) return
  const part = place.part()
  await mkdir(part)
  for (const entry of await readdir(theirs, { withFileTypes: true }))
    if (entry.isFile()) await copyFile(joinBytes(theirs, Buffer.from(entry.name)), joinBytes(part, Buffer.from(entry.name)))
  await rename(part, ours)
}

/** The lists' entries of one place: what is verified there, in the card's order. */
async function writeHistory(run: Run, index: number, place: BackupPlace, card: Scan): Promise<string[]> {
  const there = run.outcomes.filter((k) => k.places[index] === null)
  if (there.length === 0 && card.files.length > 0) return []
  const known = new Set((await readHistory(place.folder))?.lists.flatMap((l) => l.files.map((f) => f.path)) ?? [])
  const date = `${new Date().toISOString().slice(0, 19)}+00:00`
  const remarks: string[] = []
  const files = there.flatMap(({ file, digests, problem }): ListedFile[] => {
    const path = pathText(file.path)
    if (!Buffer.from(path).equals(file.path)) {
      remarks.push(`${path} has a name that is not text: it is verified, but a hash list cannot hold it.`)
      return []
    }
    const action = problem ? 'failed' : known.has(path) ? 'verified' : 'original'
    return [
      {
        path,
        size: file.size,
        modified: new Date(Number(file.modified / 1_000_000n)).toISOString(),
        digests: [...(digests ?? [])].filter(([f]) => f !== 'xxh32' && f !== 'sha256').map(([format, value]) => ({ format, value, action, date })),
      },
    ]
  })
  const losses = await addGeneration(place.folder, 'transfer', files, card.folders.map(pathText))
  return [...remarks, ...losses]
}

/**
 * Backs a card (any folder) up into each of `places`, in a folder of the card's name there. Goes on where an earlier run was
 * interrupted. Nothing is ever written over, nothing on the card is changed. Throws PlaceUnusable where a place cannot be
 * used, the error of reading the card's first folder, or an AbortError; what fails for single files is in the outcome.
 */
export async function backUp(from: Uint8Array, places: readonly Uint8Array[], options: BackupOptions = {}): Promise<BackupOutcome> {
  const source = await realpath(Buffer.from(from), 'buffer')
  const name = options.name ?? lastName(source)
  if (name.length === 0) throw new PlaceUnusable('The card has no name; say which folder of it is meant.')
  const folders: { base: Buffer; folder: Buffer }[] = []
  for (const to of places) {
    const root = await realpath(Buffer.from(to), 'buffer')
    const folder = joinBytes(root, name)
    if (below(folder, source) || below(source, folder))
      throw new PlaceUnusable(`${pathText(root)} is on the card itself, or holds it. Nothing is ever written to a card.`)
    if (folders.some((f) => f.folder.equals(folder))) throw new PlaceUnusable(`${pathText(root)} is given twice.`)
    folders.push({ base: root, folder })
  }
  const card = await scan(source, [historyFolder, workName], options.signal)
  const lists = await readCardLists(source, card)
  const opened: BackupPlace[] = []
  let complete = false
  try {
    for (const { base, folder } of folders) {
      const place = new BackupPlace(folder, base)
      await place.open()
      opened.push(place)
      const needed = card.files.reduce((n, f) => n + (place.stands(f.path) ? 0 : f.size), 0)
      const free = await place.free()
      if (needed > 0 && free < needed + 1_000_000)
        throw new PlaceUnusable(
          `${pathText(folder)}: ${Math.ceil(needed / 1e6)} MB are needed there, ${Math.floor(free / 1e6)} MB are free, and 1 MB of it stays free. Free some space or choose another place.`,
        )
    }
    for (const place of opened) await carryHistory(source, place)
    for (const place of opened) for (const f of card.folders) await place.makeFolder(f)
    const run = new Run(source, opened, card, lists, options)
    await run.all()
    const order = new Map(card.files.map((f, i) => [f, i]))
    run.outcomes.sort((a, b) => (order.get(a.file) ?? 0) - (order.get(b.file) ?? 0))
    const remarks: string[] = []
    for (const [i, place] of opened.entries()) {
      await place.settle()
      const said = await writeHistory(run, i, place, card)
      if (i === 0) remarks.push(...said)
      if (place.readFrom === 'cache')
        remarks.push(`${pathText(place.folder)}: this file system cannot be read past the cache; what was read back may have come from memory.`)
    }
    const problems = [
      ...card.unread.map((u) => `${pathText(u.path)}: ${u.reason}.`),
      ...lists.missing.map((m) => `${m.path} is named by ${m.list} on the card, but is not there.`),
    ]
    complete = problems.length === 0 && run.outcomes.every((o) => o.problem === null && o.places.every((p) => p === null))
    return {
      card: pathText(name),
      files: run.outcomes,
      places: opened.map((p, i) => {
        const there = run.outcomes.filter((o) => o.places[i] === null)
        return { folder: pathText(p.folder), verified: there.length, bytes: there.reduce((n, o) => n + o.size, 0), readBack: p.readFrom }
      }),
      leftOut: card.leftOut.map((l) => ({ path: pathText(l.path), reason: l.reason })),
      problems,
      lists: lists.lists,
      remarks: [...lists.problems, ...remarks],
      complete,
    }
  } finally {
    for (const place of opened) await place.close(complete)
  }
}
