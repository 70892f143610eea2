/**
 * Files by track (MXF OP-Atom, SMPTE ST 390) of one clip: their header metadata (ST 377-1) read, and made to name one material package with
 * a track for each file, so that a program that meets the files knows them as one clip.
 */

import { type Rate, rate } from '../time/index.ts'

/** One track of a material package, and the file package that it shows (ST 377-1, 9.5 and annex B). */
export interface AtomTrack {
  readonly id: number
  readonly name: string | null
  readonly kind: 'timecode' | 'picture' | 'sound' | 'other'
  /** Identifier of the file package, 64 hexadecimal digits; null for timecode. */
  readonly file: string | null
  /** Edit units per second. */
  readonly rate: Rate
  /** In edit units; null where nothing is said. */
  readonly length: number | null
}

export interface Atom {
  /** Identifier of the material package (UMID, ST 330), 64 hexadecimal digits. */
  readonly material: string
  readonly name: string | null
  readonly tracks: readonly AtomTrack[]
  /** Identifier of the package of the file itself. */
  readonly file: string
}

/** The name of a tagged value that only keeps room in the header until the files are made one clip. */
export const atomRoomName = 'Room'
/** Characters of room that a header needs for a material package of so many tracks beside timecode. */
export const atomRoom = (tracks: number): number => 400 + 320 * tracks

const hex = (b: Uint8Array): string => Array.from(b, (x) => x.toString(16).padStart(2, '0')).join('')
const bytes = (h: string): Uint8Array => Uint8Array.from(h.match(/../g) ?? [], (x) => Number.parseInt(x, 16))
const number = (b: Uint8Array): number => b.reduce((n, x) => n * 256 + x, 0)
const inBytes = (n: number, width: number): Uint8Array => Uint8Array.from({ length: width }, (_, i) => Math.floor(n / 256 ** (width - 1 - i)) % 256)
const together = (list: readonly Uint8Array[]): Uint8Array => {
  const out = new Uint8Array(list.reduce((n, b) => n + b.length, 0))
  let at = 0
  for (const b of list) {
    out.set(b, at)
    at += b.length
  }
  return out
}
const utf16 = (t: string): Uint8Array => together([...Array.from({ length: t.length }, (_, i) => inBytes(t.charCodeAt(i), 2)), inBytes(0, 2)])
const fromUtf16 = (b: Uint8Array): string => {
  let out = ''
  for (let i = 0; i + 1 < b.length; i += 2) {
    const code = (b[i] as number) * 256 + (b[i + 1] as number)
    if (code === 0) break
    out += String.fromCharCode(code)
  }
  return out
}

/** Keys as FFmpeg and everybody else write them: partition packs, fill, the primer, and sets with local tags of two bytes (ST 377-1, ST 336). */
const partitionKey = '060e2b34020501010d010201010'
const fillKey = /^060e2b340101010[12]0301021001000000$/
const primerKey = '060e2b34020501010d01020101050100'
const setKey = /^060e2b34025301010d01010101(01..)00$/
const kinds = { material: '0136', essence: '0123', track: '013b', sequence: '010f', clip: '0111', tagged: '013f' } as const
const tag = {
  ...{ instance: '3c0a', packageId: '4401', name: '4402', tracks: '4403', comments: '4406', trackId: '4801', trackName: '4802' },
  ...{
    sequence: '4803',
    trackNumber: '4804',
    definition: '0201',
    length: '0202',
    components: '1001',
    source: '1101',
    taggedName: '5001',
    linked: '2701',
    editRate: '4b01',
  },
} as const
const definitions: Readonly<Record<string, AtomTrack['kind']>> = { '0103020101': 'timecode', '0103020201': 'picture', '0103020202': 'sound' }
/** The name of a track in the primer (SMPTE metadata register, 01.07.01.02.01). */
const trackNameUl = '060e2b34010101020107010201000000'

interface Item {
  readonly key: string
  readonly value: Uint8Array
}
interface LocalSet {
  readonly kind: string
  readonly items: ReadonlyMap<string, Uint8Array>
}

/** Key, length and value triplets (ST 336) from `from` on, before `to`. */
function triplets(b: Uint8Array, from: number, to: number): { item: Item; at: number; end: number }[] {
  const out: { item: Item; at: number; end: number }[] = []
  for (let at = from; at + 17 <= to; ) {
    const first = b[at + 16] as number
    const long = first & 0x80 ? first & 0x7f : 0
    const begin = at + 17 + long
    const length = long ? number(b.subarray(at + 17, begin)) : first
    const end = begin + length
    if (end > b.length) break
    out.push({ item: { key: hex(b.subarray(at, at + 16)), value: b.subarray(begin, end) }, at, end })
    at = end
  }
  return out
}

function localSet(item: Item): LocalSet | null {
  const kind = setKey.exec(item.key)?.[1]
  if (!kind) return null
  const items = new Map<string, Uint8Array>()
  for (let at = 0; at + 4 <= item.value.length; ) {
    const length = number(item.value.subarray(at + 2, at + 4))
    items.set(hex(item.value.subarray(at, at + 2)), item.value.subarray(at + 4, at + 4 + length))
    at += 4 + length
  }
  return { kind, items }
}

const triplet = (key: string, value: Uint8Array): Uint8Array => together([bytes(key), Uint8Array.of(0x83), inBytes(value.length, 3), value])
const written = ({ kind, items }: LocalSet): Uint8Array =>
  triplet(`060e2b34025301010d01010101${kind}00`, together([...items].flatMap(([t, v]) => [bytes(t), inBytes(v.length, 2), v])))
/** A batch of references: how many, how long each is, and they (ST 377-1, 4.3). */
const batch = (list: readonly string[]): Uint8Array => together([inBytes(list.length, 4), inBytes(16, 4), ...list.map(bytes)])
const references = (b: Uint8Array | undefined): string[] =>
  b ? Array.from({ length: Math.floor((b.length - 8) / 16) }, (_, i) => hex(b.subarray(8 + 16 * i, 24 + 16 * i))) : []

/** Where header metadata stands in a header partition: from the primer to the end of its fill; null where there is none. */
function metadataOf(head: Uint8Array): { from: number; to: number } | null {
  const [pack] = triplets(head, 0, Math.min(head.length, 4096))
  if (!pack?.item.key.startsWith(partitionKey)) return null
  const bytesOfHeader = number(pack.item.value.subarray(32, 40))
  const fill = triplets(head, pack.end, Math.min(head.length, pack.end + 4096))[0]
  const from = fill && fillKey.test(fill.item.key) ? fill.end : pack.end
  return bytesOfHeader > 0 ? { from, to: from + bytesOfHeader } : null
}

/** How many bytes from the beginning of a file its header takes; null where it is no MXF file. */
export const atomHeadSize = (beginning: Uint8Array): number | null => metadataOf(beginning)?.to ?? null

interface Parsed {
  readonly sets: readonly LocalSet[]
  readonly primer: Item
  readonly material: LocalSet
  readonly from: number
  readonly to: number
}

function parsed(head: Uint8Array): Parsed | null {
  const at = metadataOf(head)
  if (!at || at.to > head.length) return null
  const items = triplets(head, at.from, at.to).map((t) => t.item)
  const primer = items.find((i) => i.key === primerKey)
  const sets = items.flatMap((i) => localSet(i) ?? [])
  const material = sets.find((s) => s.kind === kinds.material)
  return primer && material ? { sets, primer, material, ...at } : null
}

const instance = (s: LocalSet): string => hex(s.items.get(tag.instance) ?? new Uint8Array())

/** Tracks of a package with what hangs on each. */
function tracksOf(p: Parsed, of: LocalSet): { track: LocalSet; sequence: LocalSet | undefined; clip: LocalSet | undefined }[] {
  const byId = new Map(p.sets.map((s) => [instance(s), s]))
  return references(of.items.get(tag.tracks)).flatMap((id) => {
    const track = byId.get(id)
    if (!track) return []
    const sequence = byId.get(hex(track.items.get(tag.sequence) ?? new Uint8Array()))
    return [{ track, sequence, clip: byId.get(references(sequence?.items.get(tag.components))[0] ?? '') }]
  })
}

const kindOf = (sequence: LocalSet | undefined): AtomTrack['kind'] =>
  definitions[hex(sequence?.items.get(tag.definition) ?? new Uint8Array()).slice(16, 26)] ?? 'other'

const rateIn = (b: Uint8Array | undefined): Rate =>
  b?.length === 8 && number(b.subarray(4)) > 0 ? rate(number(b.subarray(0, 4)), number(b.subarray(4))) : rate(1)

/** What the header of a file by track says of the clip that it belongs to; null where it is no such file. */
export function readAtom(head: Uint8Array): Atom | null {
  const p = parsed(head)
  const essence = p?.sets.find((s) => s.kind === kinds.essence)?.items.get(tag.linked)
  if (!p || !essence) return null
  const text = (b: Uint8Array | undefined): string | null => (b ? fromUtf16(b) : null)
  return {
    material: hex(p.material.items.get(tag.packageId) ?? new Uint8Array()),
    name: text(p.material.items.get(tag.name)),
    tracks: tracksOf(p, p.material).map(({ track, sequence, clip }) => {
      const length = sequence?.items.get(tag.length)
      return {
        id: number(track.items.get(tag.trackId) ?? new Uint8Array()),
        name: text(track.items.get(tag.trackName)),
        kind: kindOf(sequence),
        file: clip?.kind === kinds.clip ? hex(clip.items.get(tag.source) ?? new Uint8Array()) : null,
        rate: rateIn(track.items.get(tag.editRate)),
        length: length ? number(length) : null,
      }
    }),
    file: hex(essence),
  }
}

/**
 * The headers of a clip's files by track, each as long as it was, with one material package in all of them: the identifier that the first one
 * has, the clip's name, timecode, and a track for each file in their order. `tracks`: what each track is called. Null where one is no such
 * file, or has no room left for it.
 */
export function uniteAtoms(heads: readonly Uint8Array[], name: string, tracks: readonly string[]): Uint8Array[] | null {
  const all = heads.map(parsed)
  const shown = all.map((p) => p && tracksOf(p, p.material).find((t) => kindOf(t.sequence) !== 'timecode'))
  const [first] = all
  const material = first?.material.items.get(tag.packageId)
  if (!material) return null
  const out: Uint8Array[] = []
  for (const [i, p] of all.entries()) {
    const head = heads[i]
    if (!p || !head) return null
    const made = withTracks(p, material, name, shown, tracks)
    const room = p.to - p.from - made.length
    // What is left is fill, which takes a key and a length at least (ST 377-1, 6.3.3).
    if (!made || (room !== 0 && room < 20)) return null
    const fill = room === 0 ? new Uint8Array() : triplet('060e2b34010101020301021001000000', new Uint8Array(room - 20))
    out.push(together([head.subarray(0, p.from), made, fill, head.subarray(p.to)]))
  }
  return out
}

type Track = ReturnType<typeof tracksOf>[number] | null | undefined

/** Header metadata of one file with a track for each of `shown`. */
function withTracks(p: Parsed, material: Uint8Array, name: string, shown: readonly Track[], names: readonly string[]): Uint8Array {
  const before = tracksOf(p, p.material)
  const timecode = before.filter((t) => kindOf(t.sequence) === 'timecode')
  const gone = new Set<LocalSet | undefined>(before.filter((t) => kindOf(t.sequence) !== 'timecode').flatMap((t) => [t.track, t.sequence, t.clip]))
  const byName = new Map(p.sets.filter((s) => s.kind === kinds.tagged).map((s) => [fromUtf16(s.items.get(tag.taggedName) ?? new Uint8Array()), s]))
  const room = byName.get(atomRoomName)
  if (room) gone.add(room)
  const comments = references(p.material.items.get(tag.comments)).filter((id) => !room || id !== instance(room))
  // Instances of their own: what FFmpeg gives begins alike and has another word in this place.
  const base = instance(p.material).slice(0, 20)
  const id = (kind: number, n: number): string => `${base}${(0x7e00 + kind).toString(16)}${n.toString(16).padStart(8, '0')}`
  const counts = { picture: 0, sound: 0, timecode: 0, other: 0 }
  const made = shown.flatMap((t, n): LocalSet[] => {
    if (!t?.sequence || !t.clip) return []
    const ordinal = ++counts[kindOf(t.sequence)]
    return [
      {
        kind: kinds.track,
        items: new Map([
          ...t.track.items,
          [tag.instance, bytes(id(1, n))],
          [tag.trackId, inBytes(n + 2, 4)],
          [tag.trackNumber, inBytes(ordinal, 4)],
          [tag.trackName, utf16(names[n] ?? '')],
          [tag.sequence, bytes(id(2, n))],
        ]),
      },
      { kind: kinds.sequence, items: new Map([...t.sequence.items, [tag.instance, bytes(id(2, n))], [tag.components, batch([id(3, n)])]]) },
      { kind: kinds.clip, items: new Map([...t.clip.items, [tag.instance, bytes(id(3, n))]]) },
    ]
  })
  const whole: LocalSet = {
    kind: kinds.material,
    items: new Map([
      ...[...p.material.items].filter(([t]) => t !== tag.comments),
      [tag.packageId, material],
      [tag.name, utf16(name)],
      [tag.tracks, batch([...timecode.map((t) => instance(t.track)), ...made.filter((s) => s.kind === kinds.track).map(instance)])],
      ...(comments.length ? ([[tag.comments, batch(comments)]] as const) : []),
    ]),
  }
  const sets = p.sets.flatMap((s) => (s === p.material ? [whole, ...made] : gone.has(s) ? [] : [s]))
  return together([triplet(primerKey, withTag(p.primer.value, tag.trackName, trackNameUl)), ...sets.map(written)])
}

/** A primer (ST 377-1, 9.2) that says what a local tag means. */
function withTag(primer: Uint8Array, local: string, ul: string): Uint8Array {
  const count = number(primer.subarray(0, 4))
  const known = Array.from({ length: count }, (_, i) => hex(primer.subarray(8 + 18 * i, 10 + 18 * i)))
  return known.includes(local) ? primer : together([inBytes(count + 1, 4), inBytes(18, 4), primer.subarray(8), bytes(local), bytes(ul)])
}
