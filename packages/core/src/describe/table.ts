/** A table file that describes clips: which column is what, and which row is which clip. */
import { bare, compareReels, stem } from '../naming/index.ts'
import { framesOf, parseTimecode, type Rate } from '../time/index.ts'
import { describable, type Field, fieldValue } from './fields.ts'

/** What a column can hold: what a row is known by, or what it tells. */
export const columnUses = ['name', 'start', ...describable] as const
export type ColumnUse = (typeof columnUses)[number]

export interface TableClip {
  readonly id: string
  readonly name: string
  readonly reel: string | null
  /** First frame; null without timecode. */
  readonly start: number | null
  readonly rate: Rate
  readonly values: Readonly<Record<Field, string | null>>
}

export interface TableRow {
  /** Of the file, from 1. */
  readonly line: number
  readonly name: string
  readonly clipId: string | null
  readonly state: 'found' | 'several' | 'not-found'
  /** A sentence. */
  readonly why: string
  /** Values that differ from what the clip has. */
  readonly changes: readonly { readonly field: Field; readonly before: string | null; readonly value: string }[]
  /** What it tells of a clip that is not here: its start as written, and its descriptions. Only where none was found. */
  readonly told?: { readonly start: string; readonly values: Readonly<Partial<Record<Field, string>>> }
}

const heads: readonly (readonly [ColumnUse, RegExp])[] = [
  ['name', /^(name|clip|clipname|file|filename|sourcefile|sourcefilename|original)$/],
  ['start', /^(start|starttc|starttimecode|timecode|tc|tcin|sourcein|in)$/],
  ['reel', /^(reel|reelname|reelid|tape|tapename|tapeid)$/],
  ['scene', /^(scene|sc|slate)$/],
  ['take', /^(take|tk)$/],
  ['angle', /^(angle|ang)$/],
  ['camera', /^(camera|cam|cameraid|camid)$/],
  ['plain', /^(plainname|title|description|desc|label)$/],
  ['notes', /^(notes?|comments?|remarks?)$/],
]
const useOf = (head: string): ColumnUse | null => {
  const key = head.toLowerCase().replace(/[^a-z]/g, '')
  return heads.find(([, r]) => r.test(key))?.[0] ?? null
}

/**
 * Where the table begins among the rows of a file, by its column heads: the first row that names a clip (or a reel and a
 * timecode) and something else. Lines above it are heading lines. Null where no row is one.
 */
export function findTable(rows: readonly (readonly string[])[]): { head: number; columns: { head: string; use: ColumnUse | null }[] } | null {
  for (let i = 0; i < Math.min(rows.length, 60); i++) {
    const uses = rows[i]?.map(useOf) ?? []
    const known = uses.filter((u) => u !== null)
    if (known.length < 2 || !(known.includes('name') || (known.includes('reel') && known.includes('start')))) continue
    const taken = new Set<ColumnUse>()
    const columns = (rows[i] ?? []).map((head, n) => {
      const use = uses[n] ?? null
      // The first column of a kind is it.
      const mine = use !== null && !taken.has(use) ? use : null
      if (mine) taken.add(mine)
      return { head: head.trim(), use: mine }
    })
    return { head: i, columns }
  }
  return null
}

/**
 * The clip of each row below `head`. A name that only one clip has is enough, where neither reel nor timecode speaks against
 * it; of several, reel and timecode choose. Rows with fewer than two filled cells are no rows of the table.
 */
export function matchTable(rows: readonly (readonly string[])[], head: number, uses: readonly (ColumnUse | null)[], clips: readonly TableClip[]): TableRow[] {
  const byStem = new Map<string, TableClip[]>()
  const byBare = new Map<string, TableClip[]>()
  for (const c of clips) {
    const own = stem(c.name)
    byStem.set(own, [...(byStem.get(own) ?? []), c])
    const key = bare(c.name)
    byBare.set(key, [...(byBare.get(key) ?? []), c])
  }
  const out: TableRow[] = []
  for (let i = head + 1; i < rows.length; i++) {
    const cells = rows[i] ?? []
    if (cells.filter((c) => c.trim() !== '').length < 2) continue
    const at = (use: ColumnUse): string => (uses.includes(use) ? (cells[uses.indexOf(use)] ?? '').trim() : '')
    const [name, reel, start] = [at('name'), at('reel'), at('start')]
    const named = name ? (byStem.get(stem(name)) ?? byBare.get(bare(name)) ?? clips.filter((c) => beginsWith(c, name))) : clips
    const right = named.filter((c) => compareReels(reel || null, c.reel) !== 'contradicts' && startAgrees(start, c) && (name || (reel && start && c.reel)))
    const clip = right.length === 1 ? (right[0] as TableClip) : null
    const line = i + 1
    const label = name || [reel, start].filter(Boolean).join(' ')
    if (!clip) {
      const state = right.length > 1 ? ('several' as const) : ('not-found' as const)
      const why =
        right.length > 1
          ? `${right.length} clips fit; give the row a reel or a timecode that tells them apart.`
          : named.length > 0 && name
            ? `A clip has this name, but its ${named.some((c) => startAgrees(start, c)) ? `reel is ${named[0]?.reel}` : 'timecode is another'}.`
            : 'No clip has this name.'
      const values: Partial<Record<Field, string>> = {}
      for (const field of describable) {
        const v = fieldValue(field, at(field))
        if (v.value !== null) values[field] = v.value
      }
      out.push({ line, name: label, clipId: null, state, why, changes: [], ...(state === 'not-found' && name ? { told: { start, values } } : {}) })
      continue
    }
    const changes: TableRow['changes'][number][] = []
    let problem: string | null = null
    for (const field of describable) {
      const v = fieldValue(field, at(field))
      problem ??= v.problem
      // An empty cell says nothing; a reel that only found the clip is not told again.
      if (v.value === null || v.value === clip.values[field] || (field === 'reel' && clip.reel !== null)) continue
      changes.push({ field, before: clip.values[field], value: v.value })
    }
    out.push({
      line,
      name: label,
      clipId: clip.id,
      state: 'found',
      why: problem ?? (changes.length ? '' : 'Nothing in it is new.'),
      changes,
    })
  }
  return out
}

/** Logs often leave out the end of a long name: eight characters and more of its beginning are a name too. */
function beginsWith(c: TableClip, name: string): boolean {
  const own = stem(name)
  return own.length >= 8 && stem(c.name).startsWith(own)
}

function startAgrees(text: string, c: TableClip): boolean {
  if (!text || c.start === null) return true
  const digits = parseTimecode(text)
  if (!digits) return true
  return framesOf(digits, c.rate) === c.start
}
