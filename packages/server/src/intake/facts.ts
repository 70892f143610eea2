/** What the files of a clip are, and what clip they make. */
import { stat } from 'node:fs/promises'
import { numberedName, ownStem, sequenceName, type Technical } from '@naranja/core/clip'
import { placeOf } from '@naranja/core/intake'
import { folderFacts } from '@naranja/core/naming'
import { sameRate, seconds } from '@naranja/core/time'
import { contentId, type FoundClip, joinBytes, lastName, parentOf, pathText, readWaveNotes } from '@naranja/media'
import type { ClipRecord } from '../records/index.ts'
import { hashOf } from '../volumes/index.ts'
import { recorded, toldBeside } from './told.ts'

/** Files that a clip is made of. */
export const filesIn = (f: FoundClip): number =>
  f.sounds.reduce((n, s) => n + filesIn(s), 0) +
  (f.sequence ? f.sequence.last - f.sequence.first + 1 - f.sequence.missing.length : Math.max(1, f.channelFiles.length, f.parts.length))

/** Bytes of a clip's files in all, and their latest change. */
export interface Facts {
  readonly size: number
  readonly modified: Date
}

/** Files of a sequence, or the one file, with those of its sound. Throws where one of them cannot be reached. */
export async function filesOf(root: Uint8Array, f: FoundClip): Promise<Facts> {
  const s = f.sequence
  const sounds = await Promise.all(f.sounds.map((sound) => filesOf(root, sound)))
  let size = sounds.reduce((n, sound) => n + sound.size, 0)
  let modified = new Date(Math.max(0, ...sounds.map((sound) => sound.modified.getTime())))
  if (!s) {
    for (const path of f.channelFiles.length ? f.channelFiles : f.parts.length ? f.parts.map((p) => p.path) : [f.path]) {
      const st = await stat(joinBytes(root, path))
      size += st.size
      if (st.mtime > modified) modified = st.mtime
    }
    return { size, modified }
  }
  const folder = joinBytes(root, parentOf(f.path))
  const gone = new Set(s.missing)
  for (let n = s.first; n <= s.last; n++) {
    if (gone.has(n)) continue
    const st = await stat(joinBytes(folder, Buffer.from(numberedName(s, n))))
    size += st.size
    if (st.mtime > modified) modified = st.mtime
  }
  return { size, modified }
}

export const isSound = (f: FoundClip): boolean => /\.(wav|bwf|aiff?|flac|mp3|m4a)$/i.test(pathText(f.path))

/** Where a file was found: the folder that was taken in, and the file, each below the volume and in full. */
export interface IntakePlace {
  readonly base: Buffer
  readonly relative: Buffer
  readonly full: Buffer
  /** What the volume is called, and what the folder that it stands at. */
  readonly label: string
  readonly rootName: string
  readonly walked: Uint8Array
  /** Where the copies of a clip in a folder stand below a target. */
  readonly treeOf: (folder: Buffer) => string
}

const foldersOf = (path: Uint8Array): string[] => pathText(path).split('/').filter(Boolean)

/** What stands in place of what a file holds, where that could not be read. */
const unread = 'unread-'
export const isUnread = (contentId: string): boolean => contentId.startsWith(unread)

/** The clip that a file makes, by what it says of itself, what stands beside it, and where it was found. */
export async function describe(t: Technical, f: FoundClip, { base, relative, full, label, rootName, walked, treeOf }: IntakePlace, files: Facts) {
  const name = f.sequence ? sequenceName(f.sequence) : pathText(lastName(relative))
  const own = foldersOf(parentOf(relative))
  const ticked = foldersOf(base).length
  const which = { ticked, clip: ownStem(pathText(lastName(relative)), t.sequence) }
  // The folder that a volume stands at may tell a reel; what it is called here is what it is known by.
  const reels = folderFacts([rootName, ...own], which)
  const folders = { ...folderFacts([label, ...own], which), reel: reels.reel }
  const waves = [...(isSound(f) ? [f] : []), ...f.sounds].flatMap((s) => (s.channelFiles.length ? s.channelFiles : [s.path]))
  const notes = await Promise.all(waves.map((p) => readWaveNotes(joinBytes(walked, p)).catch(() => null)))
  const beside = await toldBeside(walked, f)
  const { reel: sideReel, ...told } = beside.told
  const shot = t.hasPicture && beside.shot && !sameRate(beside.shot, t.rate) ? { captured: { rate: beside.shot, from: 'side-file' as const } } : {}
  const fromFile = t.reel ?? notes[0]?.notes?.tape ?? null
  const ownReel = fromFile ?? sideReel ?? null
  const reel = ownReel ?? folders.reel
  const roll = (ownReel ?? folders.reel ?? folders.roll ?? label).slice(0, 100)
  const id = t.fault ? `fault-${hashOf(full)}-${files.size}` : await contentId(full, t.frames).catch(() => unread + hashOf(full))
  return {
    name: name.slice(0, 300),
    place: placeOf(roll, name),
    roll,
    tree: treeOf(Buffer.from(parentOf(relative))),
    day: (folders.day ?? (t.recordedOn ? new Date(t.recordedOn) : files.modified).toISOString().slice(0, 10)).slice(0, 100),
    reel: reel?.slice(0, 200) ?? null,
    reelSource: (fromFile ? 'file' : sideReel ? 'side-file' : folders.reel ? 'folder' : 'none') as ClipRecord['reelSource'],
    start: t.start,
    startSource: (t.start === null ? 'none' : 'file') as ClipRecord['startSource'],
    frames: t.frames,
    seconds: seconds(t.frames, t.rate),
    size: files.size,
    modified: files.modified,
    contentId: id,
    technical: { ...shot, ...t },
    notices: [],
    noticeCodes: ',',
    files: filesIn(f),
    beside: f.beside.map((b) => pathText(joinBytes(base, b))),
    described: { ...Object.fromEntries(Object.entries(told).map(([k, value]) => [k, { value, from: 'side-file' as const }])), ...recorded(notes) },
    backups: 0,
  }
}
