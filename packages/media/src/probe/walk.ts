/** Finds what is below a folder: media files, numbered sequences, and what is neither. */
import type { Dirent } from 'node:fs'
import { type Sequence, soundByName, splitNames } from '@naranja/core/clip'
import { isLeftBehind, type MediaKind, mediaKind, sequenceNumber, sideFiles, withoutSeparator } from '@naranja/core/naming'
import { recordings } from '@naranja/core/recorder'
import { joinBytes, lastName, parentOf, pathText, readFolder } from '../disk/index.ts'
import { readWaveNotes } from './wave.ts'

/** A clip to be: its path relative to the folder walked (of several files, that of the first). */
export interface FoundClip {
  readonly path: Buffer
  readonly sequence: Sequence | null
  /** All files of a recording that has one for each channel, in their order, `path` first; else empty. */
  readonly channelFiles: readonly Buffer[]
  /** Files that may be parts of one recording, by their names: `path` first, each with what stands beside it; else empty. */
  readonly parts: readonly { readonly path: Buffer; readonly beside: readonly Buffer[] }[]
  /** Recordings that may be the sound of this picture, by their names; they stand nowhere else in the list. */
  readonly sounds: readonly FoundClip[]
  /** Files that describe it. */
  readonly beside: readonly Buffer[]
}

export interface Skipped {
  readonly path: Buffer
  readonly reason: string
  /** A folder that was there a moment ago. */
  readonly vanished?: true
}

export interface Walk {
  readonly found: readonly FoundClip[]
  readonly skipped: readonly Skipped[]
}

/** Whether a file of a kind is a clip by itself; pictures are only in a sequence. */
const isWhole = (kind: MediaKind | null): boolean => kind === 'movie' || kind === 'raw-video' || kind === 'sound'

/**
 * Everything below `root`, in order of name: each file is a clip, part of one, beside one, or skipped with the reason. A
 * picture file that has at least two neighbours in number is part of a sequence; single pictures are no clips. Recordings
 * with a file for each channel are one clip; files whose names are numbered like parts of one stand together, to be looked into. Links are not followed.
 * With `deep` false the folders in it are left alone.
 */
export async function walk(root: Uint8Array, signal?: AbortSignal, { deep = true } = {}): Promise<Walk> {
  const found: FoundClip[] = []
  const skipped: Skipped[] = []
  const visit = async (relative: Buffer): Promise<void> => {
    signal?.throwIfAborted()
    let entries: Dirent<Buffer>[]
    try {
      entries = await readFolder(joinBytes(root, relative))
    } catch (e) {
      const code = (e as NodeJS.ErrnoException).code
      const reason = code === 'EACCES' ? 'the folder may not be read (permission denied)' : `the folder could not be read (${code})`
      skipped.push({ path: relative, reason, ...(code === 'ENOENT' ? { vanished: true } : {}) })
      return
    }
    const media: Buffer[] = []
    const others: { path: Buffer; reason: string }[] = []
    const numbered = new Map<string, { number: number; path: Buffer }[]>()
    for (const entry of entries) {
      const name = pathText(entry.name)
      const path = joinBytes(relative, entry.name)
      if (entry.isFile() && isLeftBehind(name)) skipped.push({ path, reason: 'left by other software' })
      else if (name.startsWith('.')) {
        if (entry.isFile()) skipped.push({ path, reason: 'hidden' })
      } else if (entry.isDirectory()) {
        if (deep) await visit(path)
      } else if (!entry.isFile()) skipped.push({ path, reason: entry.isSymbolicLink() ? 'a link' : 'no regular file' })
      else if (isWhole(mediaKind(name))) media.push(path)
      else if (mediaKind(name) !== null) {
        const n = sequenceNumber(name)
        if (!n) others.push({ path, reason: 'a single picture' })
        else {
          const key = JSON.stringify([n.base, n.digits, n.ext])
          const list = numbered.get(key)
          // Two hours of pictures are a hundred and seventy thousand: none is copied for the next.
          if (list) list.push({ number: n.number, path })
          else numbered.set(key, [{ number: n.number, path }])
        }
      } else others.push({ path, reason: 'no media file' })
    }
    const sequences: { path: Buffer; sequence: Sequence }[] = []
    for (const [key, files] of numbered) {
      files.sort((a, b) => a.number - b.number)
      const [base, digits, ext] = JSON.parse(key) as [string, number, string]
      const first = files[0]
      const last = files.at(-1)
      if (!first || !last || files.length < 3) {
        for (const f of files) others.push({ path: f.path, reason: 'a single picture' })
        continue
      }
      const have = new Set(files.map((f) => f.number))
      const missing: number[] = []
      for (let n = first.number; n <= last.number && missing.length < 100_000; n++) if (!have.has(n)) missing.push(n)
      sequences.push({ path: first.path, sequence: { base, ext, digits, first: first.number, last: last.number, missing } })
    }
    const sets = await channelSets(root, media)
    const split = new Map(
      splitNames(sets.flatMap((files) => (files.length === 1 ? pathText(lastName(files[0] as Buffer)) : [])).filter((n) => mediaKind(n) === 'movie')).flatMap(
        (names) => names.map((n) => [n, names] as const),
      ),
    )
    const clips = [
      ...sets.flatMap((files) => {
        const path = files[0] as Buffer
        const names = split.get(pathText(lastName(path)))
        if (names && names[0] !== pathText(lastName(path))) return []
        return [{ path, sequence: null, channelFiles: files.length > 1 ? files : [], names: names ?? [] }]
      }),
      ...sequences.map((q) => ({ ...q, channelFiles: [], names: [] })),
    ]
    // A sequence is known by what stands before its numbers.
    const nameOf = (c: { path: Buffer; sequence: Sequence | null }) =>
      c.sequence ? `${withoutSeparator(c.sequence.base)}.${c.sequence.ext}` : pathText(lastName(c.path))
    const belongs = sideFiles(
      clips.flatMap((c) => (c.names.length ? c.names : [nameOf(c)])),
      others.map((o) => pathText(lastName(o.path))),
    )
    for (const o of others) if (!belongs.has(pathText(lastName(o.path)))) skipped.push(o)
    const besideOf = (own: string): Buffer[] => others.filter((o) => belongs.get(pathText(lastName(o.path))) === own).map((o) => o.path)
    for (const { names, ...c } of clips) {
      const parts = names.map((n) => ({ path: joinBytes(relative, Buffer.from(n)), beside: besideOf(n) }))
      found.push({ ...c, parts, sounds: [], beside: parts.length ? parts.flatMap((p) => p.beside) : besideOf(nameOf(c)) })
    }
  }
  await visit(Buffer.alloc(0))
  return { found: withSounds(found), skipped }
}

/** Puts what may be the sound of a picture with it. */
function withSounds(found: readonly FoundClip[]): FoundClip[] {
  const named = found
    .filter((f) => f.parts.length === 0)
    .map((f) => {
      const name = f.sequence?.base ?? pathText(lastName(f.path))
      const kind = f.sequence ? ('sequence' as const) : mediaKind(name) === 'sound' ? ('sound' as const) : ('movie' as const)
      return { f, folder: pathText(parentOf(f.path)), name, kind }
    })
  const own = new Map([...soundByName(named)].map(([p, list]) => [p.f, list.map((s) => s.f)]))
  const taken = new Set([...own.values()].flat())
  return found.filter((f) => !taken.has(f)).map((f) => ({ ...f, sounds: own.get(f) ?? [] }))
}

/** The files of one folder, those of one recording together. Only where there are several wave files is anything read. */
async function channelSets(root: Uint8Array, media: readonly Buffer[]): Promise<Buffer[][]> {
  const waves = media.filter((p) => /\.(wav|bwf)$/i.test(pathText(p)))
  if (waves.length < 2) return media.map((p) => [p])
  const known = await Promise.all(
    waves.map(async (path) => {
      const w = await readWaveNotes(joinBytes(root, path)).catch(() => null)
      const timeReference = w?.broadcast?.timeReference ?? w?.notes?.timeReference ?? null
      // A file that says nothing is like no other.
      return {
        path,
        name: pathText(lastName(path)),
        channels: w?.channels ?? 0,
        sampleRate: w?.sampleRate ?? 0,
        length: w?.length ?? 0,
        timeReference,
        family: w?.notes?.family ?? null,
      }
    }),
  )
  const set = new Map<Buffer, Buffer[]>()
  const first = new Set<Buffer>()
  for (const group of recordings(known)) {
    const paths = group.map((f) => f.path)
    // The recording stands where its first name stands.
    first.add(paths[0] as Buffer)
    for (const p of paths) set.set(p, paths)
  }
  return media.flatMap((p) => {
    const files = set.get(p)
    return files ? (first.has(p) ? [files] : []) : [[p]]
  })
}
