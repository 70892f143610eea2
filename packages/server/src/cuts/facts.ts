/** What reconnection knows of an original: its names, where it stands, how it counts. */
import { fileAliases, type Light } from '@naranja/core/clip'
import { stem } from '@naranja/core/naming'
import type { ClipFacts, CopyTime } from '@naranja/core/reconnect'
import { parentOf, pathText } from '@naranja/media'
import { present } from '../originals/index.ts'
import type { ClipRecord } from '../records/index.ts'

/** What of its edit copies helps to find an original: names that were changed, and counts at another rate. */
export interface CopyNotes {
  readonly names: string[]
  readonly paths: string[]
  readonly mapped: CopyTime[]
}
/** Names of the light copies of each original, by its id: a list that names one means the original. */
export function calledOf(clips: readonly Pick<ClipRecord, 'id' | 'name'>[], light: ReadonlyMap<string, Light>): Map<string, string[]> {
  const names = new Map(clips.map((c) => [c.id, c.name]))
  const called = new Map<string, string[]>()
  for (const [id, l] of light) if (l.of && l.standing !== 'suspected') called.set(l.of, [...(called.get(l.of) ?? []), names.get(id) ?? ''])
  return called
}

/** What hangs on more than the clip itself. */
interface Around {
  readonly volume: string
  /** Its volume is. */
  readonly away: boolean
  /** It is finished from a checked intermediate. */
  readonly fromCopy: boolean
  readonly light: ClipFacts['light']
  readonly copies: CopyNotes | undefined
  /** What its light copies are called. */
  readonly called: readonly string[]
}

export function factOf(c: ClipRecord, { volume, away, fromCopy, light, copies, called }: Around): ClipFacts {
  const t = c.technical
  const folder = pathText(parentOf(c.path))
  const plain = present(c, 'plain')
  return {
    id: c.id,
    name: c.name,
    // What a person calls it comes last.
    aliases: [...fileAliases(t), ...(copies?.names.filter((n) => stem(n) !== stem(c.name)) ?? []), ...called, ...c.formerNames, ...(plain ? [plain] : [])],
    copies: copies?.paths,
    roll: c.roll,
    scene: present(c, 'scene'),
    take: present(c, 'take'),
    coding: t.codec,
    recorded: t.recordedOn ? new Date(t.recordedOn).getTime() : c.modified.getTime(),
    pixels: t.width * t.height,
    firstNumber: t.sequence?.first,
    form: t.sequence ? 'numbered pictures' : t.hasPicture ? 'movie' : 'sound',
    mapped: copies?.mapped,
    reel: c.reel,
    reelDerived: c.reelSource === 'folder' || c.reelSource === 'rule',
    place: `${volume}/${folder ? `${folder}/` : ''}`,
    rate: t.rate,
    frames: c.frames,
    start: c.start,
    drop: t.drop,
    hasPicture: t.hasPicture,
    hasSound: t.sound !== null,
    light,
    contentId: c.contentId,
    away: away || Boolean(c.gone),
    gone: Boolean(c.gone) && !away,
    fromCopy,
  }
}
