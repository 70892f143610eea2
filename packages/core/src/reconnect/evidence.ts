/** What speaks for and against an original for an event. */
import type { CutEvent } from '../cutlist/index.ts'
import { type Agreement, compareNames, compareReels, isCounter, isNoReel } from '../naming/index.ts'
import { type Rate, rateText, sameRate, timecodeText } from '../time/index.ts'
import { clipTimecode, locate } from './locate.ts'
import type { Candidate, ClipFacts, Evidence, SourceCount } from './model.ts'

const rank: Record<Agreement, number> = { agrees: 3, bent: 2, missing: 1, contradicts: 0 }

/** The best agreement of any wanted name with any name the clip goes by. */
function nameAgreement(wanted: readonly string[], clip: ClipFacts): { agreement: Agreement; name: string } {
  let best: { agreement: Agreement; name: string } = { agreement: wanted.length ? 'contradicts' : 'missing', name: wanted[0] ?? '' }
  for (const name of wanted)
    for (const have of [clip.name, ...clip.aliases]) {
      const agreement = compareNames(name, have)
      if (rank[agreement] > rank[best.agreement]) best = { agreement, name }
    }
  return best
}

const frames = (n: number) => `${n} ${n === 1 ? 'frame' : 'frames'}`

function nameEvidence(wanted: readonly string[], clip: ClipFacts): Evidence {
  const { agreement, name } = nameAgreement(wanted, clip)
  const weak = isCounter(name)
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

function reelEvidence(event: CutEvent, clip: ClipFacts, reelKnown: boolean): Evidence {
  const compared = compareReels(event.reel, clip.reel)
  if (compared === 'contradicts' && clip.reelDerived && !reelKnown)
    return { kind: 'reel', agreement: 'missing', weak: false, text: `reel ${event.reel} is on no original; its folder is ${clip.reel}` }
  const agreement = compared
  const cut = (event.reel?.length ?? 0) < (clip.reel?.length ?? 0)
  const text = {
    agrees: cut ? `reel ${event.reel} is ${clip.reel} as the list cuts it off` : `reel ${event.reel} agrees`,
    bent: `reel ${event.reel} is nearly ${clip.reel}`,
    missing: isNoReel(event.reel) ? 'the list gives no reel' : 'the original has no reel',
    contradicts: `reel ${event.reel} in the list, ${clip.reel} on the original`,
  }[agreement]
  return { kind: 'reel', agreement, weak: false, text }
}

/**
 * Name, reel and timecode of one original against one event; null where its timecode cannot be read at either rate.
 * `reelKnown`: some original carries the list's reel, so that another reel speaks against this one.
 */
export function weigh(event: CutEvent, clip: ClipFacts, cutRate: Rate, count: SourceCount, reelKnown = true): Candidate | null {
  const at = locate(event, clip, cutRate, count)
  if (!at) return null
  const wanted = [event.clipName, event.sourceFile].filter((n): n is string => n !== null)
  const short = at.missing.before + at.missing.after
  const from = timecodeText(event.sourceIn)
  const counted =
    at.countedAt === 'file'
      ? ", counted from the first frame that the cut's file gives it"
      : sameRate(clip.rate, cutRate)
        ? ''
        : at.countedAt === 'copy'
          ? `, counted as its edit copy at ${rateText(cutRate)} is`
          : event.sourceRate
            ? `, counted at ${rateText(event.sourceRate)} as the cut says`
            : `, counted at the ${at.countedAt === 'list' ? `list's ${rateText(cutRate)}` : `source's ${rateText(clip.rate)}`}`
  const noTimecode = clip.start === null ? 'the original has no timecode; ' : ''
  const text = at.outside
    ? `${noTimecode}source ${from} lies outside ${clipTimecode(clip, 0)} to ${clipTimecode(clip, clip.frames)}`
    : short > 0
      ? `${noTimecode}source ${from} is short of ${at.missing.before ? `${frames(at.missing.before)} before its start` : ''}${at.missing.before && at.missing.after ? ' and ' : ''}${at.missing.after ? `${frames(at.missing.after)} past its end` : ''}`
      : clip.start === null
        ? `no timecode; frames ${at.range.in} to ${at.range.out - 1} lie inside its ${clip.frames}${counted}`
        : `source ${from} lies inside, frames ${at.range.in} to ${at.range.out - 1} of ${clip.frames}${counted}`
  const timecode: Evidence = {
    kind: 'timecode',
    agreement: short > 0 ? 'contradicts' : 'agrees',
    weak: clip.start === null || clip.start === 0 || at.countedAt === 'file',
    text,
  }
  return {
    clipId: clip.id,
    range: at.range,
    countedAt: at.countedAt,
    origin: at.origin,
    missing: at.missing,
    evidence: [nameEvidence(wanted, clip), reelEvidence(event, clip, reelKnown), timecode],
  }
}
