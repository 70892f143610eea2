/** What speaks for and against an original for an event. */
import type { CutEvent } from '../cutlist/index.ts'
import { type Agreement, compareReels, isCounter, isNoReel, stem, withoutEndings } from '../naming/index.ts'
import { type Rate, rateText, sameRate, timecodeText } from '../time/index.ts'
import { foldersIn, plainWord } from './inventory.ts'
import { clipTimecode, locate } from './locate.ts'
import type { Candidate, ClipFacts, Evidence, SourceCount } from './model.ts'
import { plainPath } from './rules.ts'

const rank: Record<Agreement, number> = { agrees: 3, bent: 2, missing: 1, contradicts: 0 }

/** The best agreement of any wanted name with any name the clip goes by. */
function nameAgreement(wanted: Weighing['names'], clip: ClipFacts): { agreement: Agreement; name: string } {
  let best: { agreement: Agreement; name: string } = { agreement: wanted.length ? 'contradicts' : 'missing', name: wanted[0]?.name ?? '' }
  for (const { name, match } of wanted) {
    const own = match(clip.name)
    if (rank[own] > rank[best.agreement]) best = { agreement: own, name }
    for (const have of clip.aliases) {
      const agreement = match(have)
      if (rank[agreement] > rank[best.agreement]) best = { agreement, name }
    }
  }
  return best
}

const frames = (n: number) => `${n} ${n === 1 ? 'frame' : 'frames'}`

function nameEvidence(wanted: Weighing['names'], clip: ClipFacts, nameKnown: boolean): Evidence {
  const { agreement, name } = nameAgreement(wanted, clip)
  if (agreement === 'contradicts' && !nameKnown) return { kind: 'name', agreement, weak: false, ofNone: true, text: `no original is called ${name}` }
  const weak = isCounter(name) || (agreement === 'bent' && isCounter(withoutEndings(stem(name)) ?? name))
  const text = {
    agrees: weak
      ? `name ${name} agrees, but cameras write that name on every card`
      : name === clip.name
        ? `name ${name} agrees`
        : `name ${name} agrees without extension`,
    bent: `name ${name} is nearly ${clip.name}`,
    missing: 'the list gives no clip name',
    contradicts: `name ${name} is not ${clip.name}`,
  }[agreement]
  return { kind: 'name', agreement, weak, text }
}

function reelEvidence(event: CutEvent, clip: ClipFacts, { reelKnown, folderKnown }: Weighing): Evidence {
  let have = clip.reel
  let compared = compareReels(event.reel, have)
  for (const other of clip.otherReels ?? []) {
    const agreement = compareReels(event.reel, other)
    if (rank[agreement] > rank[compared] || compared === 'missing') [compared, have] = [agreement, other]
  }
  // One without a reel is known by the folder it stands in, as those who cut with it know it.
  if (have === null && !isNoReel(event.reel)) {
    for (const agreement of ['agrees', 'bent'] as const)
      if (foldersIn(clip.place).some((f) => compareReels(event.reel, f) === agreement))
        return { kind: 'reel', agreement, weak: false, text: `reel ${event.reel} is ${agreement === 'bent' ? 'nearly ' : ''}the folder it stands in` }
    if (folderKnown()) return { kind: 'reel', agreement: 'contradicts', weak: false, text: `reel ${event.reel} is another folder than ${clip.place}` }
  }
  if (compared === 'contradicts' && clip.reelDerived && !reelKnown)
    return { kind: 'reel', agreement: 'missing', weak: false, text: `reel ${event.reel} is on no original; its folder is ${clip.reel}` }
  const agreement = compared
  const cut = (event.reel?.length ?? 0) < (have?.length ?? 0)
  const by = have === clip.reel ? '' : ', by rule'
  const text = {
    agrees: cut
      ? `reel agrees in its first ${event.reel?.length} characters: ${event.reel} is ${have} as the list cuts it off${by}`
      : `reel ${event.reel} agrees${by}`,
    bent: `reel ${event.reel} is nearly ${have}${by}`,
    missing: isNoReel(event.reel) ? 'the list gives no reel' : 'the original has no reel',
    contradicts: `reel ${event.reel} in the list, ${have} on the original`,
  }[agreement]
  return { kind: 'reel', agreement, weak: false, text }
}

/** The files that an event names, as plain paths, and the folders of its source file from the outside in. */
export function pathsOf(event: CutEvent): { paths: string[]; folders: string[] } {
  const paths = [event.sourceFile, event.clipName, ...(event.otherFiles ?? [])].flatMap((p) => (p === null ? [] : plainPath(p)))
  return { paths, folders: event.sourceFile === null ? [] : foldersIn((paths[0] ?? '').replace(/[^/]*$/, '')) }
}

const same = (a: string | undefined, b: string | undefined): boolean =>
  a !== undefined && b !== undefined && a.normalize('NFC').toLowerCase() === b.normalize('NFC').toLowerCase()

/** Folders that agree, from the file outwards; null where the list gives none, or none agrees. */
function folderEvidence(wanted: readonly string[], clip: ClipFacts): Evidence | null {
  if (wanted.length === 0) return null
  const have = foldersIn(clip.place)
  let n = 0
  while (n < wanted.length && n < have.length && same(wanted[wanted.length - 1 - n], have[have.length - 1 - n])) n++
  return n === 0 ? null : { kind: 'folder', agreement: 'agrees', weak: n === 1, text: `it stands in ${have.slice(-n).join('/')} as the list says` }
}

/** Scene and take that a rule read from the list against those of the clip; null where one side has none. */
function sceneEvidence(scene: string | null, take: string | null, clip: ClipFacts): Evidence | null {
  if (scene === null || !clip.scene) return null
  const scenes = plainWord(scene) === plainWord(clip.scene)
  const takes = take === null || !clip.take || plainWord(take) === plainWord(clip.take)
  const name = (s: string, t: string | null | undefined) => `scene ${s}${t ? ` take ${t}` : ''}`
  return scenes && takes
    ? { kind: 'scene', agreement: 'agrees', weak: take === null || !clip.take, text: `${name(scene, take)} agrees` }
    : { kind: 'scene', agreement: 'contradicts', weak: false, text: `${name(scene, take)} in the list, ${name(clip.scene, clip.take)} on the original` }
}

export interface Weighing {
  readonly cutRate: Rate
  /** Names that the event gives, each with what tells how another agrees. */
  readonly names: readonly { readonly name: string; readonly match: (have: string) => Agreement }[]
  readonly count: SourceCount
  /** Some original carries the list's reel, so that another reel speaks against this one. */
  readonly reelKnown: boolean
  /** The list's reel is a folder in which originals without a reel stand, so that other folders speak against those. */
  readonly folderKnown: () => boolean
  /** The files that the event names, as plain paths. */
  readonly paths: readonly string[]
  /** Folders that its source file stands in, from the outside in. */
  readonly folders: readonly string[]
  /** Some original is called as the list says, or nearly so. */
  readonly nameKnown: boolean
  readonly scene?: string | null
  readonly take?: string | null
  /** Source timecode is not to be trusted: it speaks neither for nor against. */
  readonly noTimecode?: boolean
}

/**
 * Whether a clip cannot be taken, told without weighing all of it: neither its name nor its timecode fits, and no copy of it is named. Of the
 * hundred clips of a reel that an event with a bent name asks for, nearly all.
 */
export function hopeless(event: CutEvent, clip: ClipFacts, how: Weighing): boolean {
  if (how.noTimecode || how.scene || nameAgreement(how.names, clip).agreement !== 'contradicts') return false
  if (clip.copies?.some((c) => how.paths.includes(c))) return false
  const at = locate(event, clip, how.cutRate, how.count)
  return !at || at.missing.before + at.missing.after > 0
}

/** What speaks for and against one original for one event; null where its timecode cannot be read at either rate. */
export function weigh(event: CutEvent, clip: ClipFacts, how: Weighing): Candidate | null {
  const { cutRate } = how
  const name = nameEvidence(how.names, clip, how.nameKnown)
  const scene = sceneEvidence(how.scene ?? null, how.take ?? null, clip)
  // Timecode is taken otherwise than it stands only where something else speaks for the clip.
  const spoken = name.agreement === 'agrees' || name.agreement === 'bent' || scene?.agreement === 'agrees'
  const at = locate(event, clip, cutRate, how.count, spoken)
  if (!at) return null
  const short = at.missing.before + at.missing.after
  const from = timecodeText(event.sourceIn)
  const counted =
    at.countedAt === 'file'
      ? ", counted from the clip's first frame"
      : sameRate(clip.rate, cutRate)
        ? ''
        : at.countedAt === 'copy'
          ? `, counted as its edit copy at ${rateText(cutRate)} is`
          : event.sourceRate
            ? `, counted at ${rateText(event.sourceRate)}`
            : `, counted at the ${at.countedAt === 'list' ? `list's ${rateText(cutRate)}` : `source's ${rateText(clip.rate)}`}`
  const noTimecode = clip.start === null ? 'the original has no timecode; ' : ''
  const numbered = at.countedAt === 'number'
  const odd = at.hours !== undefined || numbered || (at.countedAt === 'file' && !event.media)
  const span = () => `${clipTimecode(clip, 0)} to ${clipTimecode(clip, clip.frames)}`
  const twoWays = at.otherwise && !at.outside
  const text = at.outside
    ? `${noTimecode}source ${from} lies outside ${span()}`
    : at.otherwise
      ? `source ${from} is frame ${at.range.in} counted at the list's ${rateText(cutRate)}, frame ${at.otherwise.range.in} at the source's ${rateText(clip.rate)}`
      : numbered
        ? `source ${from} is the number ${(clip.firstNumber ?? 0) + at.range.in} of its picture, counted as frames: frames ${at.range.in} to ${at.range.out - 1} of ${clip.frames}`
        : odd
          ? at.hours !== undefined
            ? `source ${from} is exactly ${Math.abs(at.hours)} ${Math.abs(at.hours) === 1 ? 'hour' : 'hours'} ${at.hours > 0 ? 'later' : 'earlier'} than frames ${at.range.in} to ${at.range.out - 1} of ${clip.frames}`
            : `source ${from} lies outside ${span()}; counted from the clip's first frame it is frames ${at.range.in} to ${at.range.out - 1} of ${clip.frames}`
          : short > 0
            ? `${noTimecode}from source ${from} on the event needs ${at.missing.before ? `${frames(at.missing.before)} before the start` : ''}${at.missing.before && at.missing.after ? ' and ' : ''}${at.missing.after ? `${frames(at.missing.after)} beyond the end` : ''} of this clip`
            : clip.start === null
              ? `no timecode; frames ${at.range.in} to ${at.range.out - 1} lie inside its ${clip.frames}${counted}`
              : `source ${from} lies inside, frames ${at.range.in} to ${at.range.out - 1} of ${clip.frames}${counted}`
  const timecode: Evidence = how.noTimecode
    ? { kind: 'timecode', agreement: 'missing', weak: true, text: 'source timecode is not trusted, by rule' }
    : {
        kind: 'timecode',
        agreement: short > 0 ? 'contradicts' : odd ? 'bent' : 'agrees',
        weak: clip.start === null || clip.start === 0 || at.countedAt === 'file' || numbered,
        ...(twoWays ? { text: `${text}, and nothing tells which`, told: text } : { text }),
      }
  const copy = clip.copies?.find((c) => how.paths.includes(c))
  const more: (Evidence | null)[] = [
    copy ? { kind: 'stamp', agreement: 'agrees', weak: false, text: `the list names its edit copy ${copy}, which carries its stamp` } : null,
    scene,
    folderEvidence(how.folders, clip),
    sameRate(clip.rate, event.sourceRate ?? cutRate)
      ? { kind: 'rate', agreement: 'agrees', weak: true, text: `it runs at ${rateText(clip.rate)} fps, as the list does` }
      : { kind: 'rate', agreement: 'missing', weak: true, text: `it runs at ${rateText(clip.rate)} fps, the list at ${rateText(event.sourceRate ?? cutRate)}` },
    event.media ? lengthEvidence(event.media.length, event.sourceRate ?? cutRate, clip) : null,
  ]
  return {
    clipId: clip.id,
    range: at.range,
    otherwise: at.otherwise && { range: at.otherwise.range, at: at.otherwise.at, countedAt: at.otherwise.countedAt },
    countedAt: at.countedAt,
    at: at.at,
    missing: at.missing,
    evidence: [name, reelEvidence(event, clip, how), timecode, ...more.filter((e) => e !== null)],
  }
}

/** How long the file says its media are, against the clip: a copy of a part is shorter, so that no other length speaks against it. */
function lengthEvidence(length: number, rate: Rate, clip: ClipFacts): Evidence {
  const agrees = sameRate(rate, clip.rate) && length === clip.frames
  return {
    ...{ kind: 'length', agreement: agrees ? 'agrees' : 'missing', weak: true },
    text: agrees ? `${frames(length)} long as the list says` : `the list says ${frames(length)}, it has ${clip.frames}`,
  }
}
