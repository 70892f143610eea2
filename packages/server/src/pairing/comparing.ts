/** Files compared with the originals they seem to be of, and what is found out. */
import { stat } from 'node:fs/promises'
import type { PairAsk, PairLine } from '@naranja/contract'
import { lightCopies, seenMatrix } from '@naranja/core/clip'
import { stem } from '@naranja/core/naming'
import type { Pairing } from '@naranja/core/pairing'
import { type FrameMap, rateText, sameRate } from '@naranja/core/time'
import { clipInput, type Comparison, comparePictures, goodFrames, joinBytes, pathText, probe, smallPicture } from '@naranja/media'
import type { projectDecode } from '../picture/index.ts'
import { found, newId, plural } from '../platform/index.ts'
import type { ClipRecord, CopyRecord } from '../records/index.ts'
import { type Comparable, comparableOriginal } from '../sources/index.ts'
import { elsewhere, isElsewhere } from '../specs/index.ts'
import { type Adopted, adoptedFrom, factsOf, isUnread, kindOf, notes, type Pair, partOf, type Read, reportOf, shownFile } from './read.ts'

/** What a pairing knows of the project, and what it has found out. */
export class Comparing {
  readonly lines: PairLine[] = []
  /** Copies to be written down, each with what stood there before. */
  readonly rows: { row: CopyRecord; before: CopyRecord | null }[] = []
  /** Clips that nothing but the name was known of, as their copies tell what they are. */
  readonly adopted = new Map<string, Adopted>()
  /** What was paired with an original in this run, by original and purpose. */
  private readonly taken = new Map<string, Read>()
  constructor(
    private readonly project: {
      readonly id: string
      readonly clips: readonly ClipRecord[]
      readonly copies: readonly CopyRecord[]
      readonly roots: ReadonlyMap<string, Buffer>
      readonly decode: Awaited<ReturnType<typeof projectDecode>>
    },
    private readonly place: { readonly volumeId: string; readonly base: Buffer },
    private readonly kind: PairAsk['kind'],
    /** Files that are taken in place of the copies that stand. */
    private readonly instead: ReadonlySet<string>,
    private readonly signal: AbortSignal,
  ) {}

  /** Clips that copies can be of: what is, or looks like, a light copy itself is none. */
  readonly originals = (): ClipRecord[] => {
    const light = lightCopies(this.project.clips)
    return this.project.clips.filter((c) => isUnread(c) || (c.technical.hasPicture && c.frames > 0 && !light.has(c.id)))
  }
  clip = (id: string): ClipRecord => found(this.project.clips.find((c) => c.id === id) ?? null, 'The original')

  say(path: string, verdict: PairLine['verdict'], more: Partial<PairLine> = {}): void {
    this.lines.push({ path, verdict, clipId: null, clip: '', clipIds: [], reason: '', evidence: [], likeness: null, beside: null, pictures: null, ...more })
  }

  private readonly shownClip = (c: ClipRecord): Comparable | null => comparableOriginal(c, this.project.roots, this.project.decode)

  async compare(r: Read, clip: ClipRecord, map: FrameMap | null): Promise<Comparison | null> {
    const original = this.shownClip(clip)
    return original && comparePictures(shownFile(r), original, map, r.path, this.signal)
  }

  /** The two pictures that a refusal rests on: of the frame least like its original's, or of the first. */
  async pictures(r: Read, clip: ClipRecord, c: Comparison | null): Promise<PairLine['pictures']> {
    const original = this.shownClip(clip)
    const worst = [...(c?.points ?? [])].sort((a, b) => a.likeness - b.likeness)[0] ?? { frame: 0, of: 0 }
    const [mine, theirs] = await Promise.all(
      [[shownFile(r), worst.frame] as const, [original, worst.of] as const].map(([s, f]) => s && smallPicture(s, f, s.matrix)),
    )
    return mine && theirs ? { copy: mine.toString('base64'), original: theirs.toString('base64'), frame: worst.frame, of: worst.of } : null
  }

  /** The copy made here that a file is, come back to another place: of the same original, called the same, and as large. */
  private returned(clip: ClipRecord, r: Read): CopyRecord | undefined {
    const { copies, roots } = this.project
    return copies.find(
      (c) => c.clipId === clip.id && !isElsewhere(c.spec) && c.size === r.size && c.report && stem(c.path) === stem(r.path) && !roots.has(c.volumeId),
    )
  }

  /** Compares a file with the original it seems to be of, and writes it down as its copy, or says why not; those `before` it come first. */
  async settle(r: Read, v: Pair, before: Promise<unknown>): Promise<void> {
    const clip = this.clip(v.clipId)
    const path = pathText(joinBytes(this.place.base, Buffer.from(r.path)))
    const told = { clipId: clip.id, clip: clip.name, evidence: v.evidence.map((e) => e.text) }
    const here = this.project.copies.find((c) => c.volumeId === this.place.volumeId && c.path === path && c.state === 'checked')
    if (here?.clipId === clip.id && here.size === r.size) return this.say(r.path, 'known', { ...told, reason: 'It is in the list already.' })
    if (here && here.clipId !== clip.id) return this.say(r.path, 'refused', { ...told, reason: 'It is in the list already, as the copy of another original.' })
    const c = await this.compare(r, clip, v.map)
    const undecodable = clip.technical.fault !== null
    const lost = undecodable ? await this.against(r, clip) : null
    await before
    if (lost) return this.say(r.path, 'refused', { ...told, reason: lost, pictures: await this.pictures(r, clip, null) })
    const proven = c !== null || undecodable
    const likeness = c ? Math.min(...c.points.map((p) => p.likeness)) : null
    if (c?.against) {
      // One that waited for its original has failed now, and waits no more.
      const waited = this.project.copies.find((x) => x.volumeId === this.place.volumeId && x.path === path && x.state === 'unchecked')
      if (waited) this.rows.push({ row: { ...waited, state: 'failed-check', report: { ...reportOf(r.t, c), faults: [`${c.against}.`] } }, before: waited })
      return this.say(r.path, 'refused', { ...told, reason: `${c.against}.`, likeness, pictures: await this.pictures(r, clip, c) })
    }
    const home = this.returned(clip, r)
    const kind = home?.kind ?? (this.kind === 'auto' ? kindOf(r.t, clip) : this.kind)
    const spec = home?.spec ?? elsewhere[kind]
    const old = home ?? this.project.copies.find((x) => x.clipId === clip.id && x.spec === spec) ?? null
    const second = home || this.instead.has(r.path) ? null : await this.besideWhat(r, `${clip.id} ${spec}`, old)
    if (second) {
      const reason = `${clip.name} has another ${kind} made elsewhere: ${second.beside.standing.path}. It stays until a person takes this one in its place.`
      return this.say(r.path, 'second', { ...told, likeness, reason, ...second })
    }
    this.taken.set(`${clip.id} ${spec}`, r)
    const standing = { volumeId: this.place.volumeId, path, state: proven ? ('checked' as const) : ('unchecked' as const) }
    const row: CopyRecord = home
      ? { ...home, ...standing, state: 'checked' }
      : {
          ...{ id: old?.id ?? newId(), projectId: this.project.id, clipId: clip.id, spec, specVersion: 1, specName: 'Made elsewhere', kind },
          ...partOf(v.map, r.t.frames),
          ...{
            ...standing,
            replaces: false,
            size: r.size,
            facts: factsOf(r, v.map, c?.graded ?? false, undecodable),
            report: proven ? reportOf(r.t, c) : null,
          },
        }
    this.rows.push({ row, before: old })
    if (isUnread(clip)) this.adopted.set(clip.id, adoptedFrom(clip, r.t))
    this.say(r.path, home ? 'taken-back' : proven ? 'paired' : 'unchecked', { ...told, likeness, reason: notes(v.map, c, undecodable) })
  }

  /** The copy that stands for an original already, as it is shown beside a second one; null where none does. */
  private async besideWhat(
    r: Read,
    key: string,
    old: CopyRecord | null,
  ): Promise<{ beside: NonNullable<PairLine['beside']>; pictures: PairLine['pictures'] } | null> {
    const own = { path: r.path, width: r.t.width, height: r.t.height, bytes: r.size }
    const picture = (of: Read): Promise<Buffer | null> => smallPicture(shownFile(of), 0, seenMatrix(of.t))
    const shown = async (standing: typeof own, other: Read | null) => {
      const [copy, first] = await Promise.all([picture(r), other && picture(other)])
      const pictures = copy && first ? { copy: copy.toString('base64'), original: first.toString('base64'), frame: 0, of: 0 } : null
      return { beside: { own, standing }, pictures }
    }
    const first = this.taken.get(key)
    if (first) return shown({ path: first.path, width: first.t.width, height: first.t.height, bytes: first.size }, first)
    if (!old || (old.state !== 'checked' && old.state !== 'unchecked')) return null
    // Itself, read anew; or one that is not there any more.
    if (old.volumeId === this.place.volumeId && old.path === pathText(joinBytes(this.place.base, Buffer.from(r.path)))) return null
    const root = this.project.roots.get(old.volumeId)
    const file = root && joinBytes(root, Buffer.from(old.path))
    if (file && !(await stat(file).catch(() => null))) return null
    const t = file && (await probe(file, { projectRate: r.t.rate, sequence: old.facts?.sequence ?? null }))
    const other = file && t && !t.fault && t.hasPicture ? { path: old.path, own: file, t, size: old.size, id: '' } : null
    return shown({ path: file ? pathText(file) : old.path, width: old.facts?.width ?? 0, height: old.facts?.height ?? 0, bytes: old.size }, other)
  }

  /** What speaks against a copy of an original that cannot be decoded, as a sentence: with no picture to compare, everything else must agree. */
  private async against(r: Read, clip: ClipRecord): Promise<string | null> {
    const only = `${clip.name} cannot be decoded, so that its picture cannot be compared and all else must agree`
    const known = clip.frames > 0
    if (known && (r.t.frames !== clip.frames || !sameRate(r.t.rate, clip.technical.rate)))
      return `${only}: it has ${plural(r.t.frames, 'frame')} at ${rateText(r.t.rate)}, the original ${clip.frames} at ${rateText(clip.technical.rate)}.`
    if (known && clip.start !== null && r.t.start !== clip.start) return `${only}: it does not begin with the original's timecode.`
    const good = await goodFrames(clipInput(r.own, r.t), r.t.frames, this.signal)
    return good < r.t.frames ? `${only}: it cannot be decoded itself from frame ${good} on.` : null
  }

  /** Where names and counts tell several originals apart no further, their pictures may. */
  async byPicture(
    r: Read,
    v: Extract<Pairing, { verdict: 'several' }>,
    again: (only: ClipRecord) => Pairing | undefined,
    before: Promise<unknown>,
  ): Promise<void> {
    const like: { clip: ClipRecord; likeness: number }[] = []
    for (const id of v.clipIds.slice(0, 8)) {
      const c = await this.compare(r, this.clip(id), null)
      if (c && !c.against) like.push({ clip: this.clip(id), likeness: c.points.reduce((n, p) => n + p.likeness, 0) / c.points.length })
    }
    const [best, next] = like.sort((a, b) => b.likeness - a.likeness)
    const verdict = best && (!next || best.likeness - next.likeness > 0.03) ? again(best.clip) : undefined
    if (verdict?.verdict === 'pair') await this.settle(r, verdict, before)
    else this.say(r.path, 'several', { clipIds: [...v.clipIds], reason: `${v.reason}.` })
  }
}
