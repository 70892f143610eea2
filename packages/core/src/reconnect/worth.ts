/** What a candidate is worth: whether it may be taken, whether it is proven, and which of two is better. */
import { type Candidate, type ClipFacts, type Evidence, telling } from './model.ts'

export const of = (c: Candidate, kind: Evidence['kind']): Evidence | undefined => c.evidence.find((e) => e.kind === kind)
export const agreeing = (c: Candidate): Evidence[] => c.evidence.filter((e) => e.agreement === 'agrees')
export const against = (c: Candidate): Evidence[] => c.evidence.filter((e) => e.agreement === 'contradicts')

/** Frames of the event that the original has. */
const present = (c: Candidate): number => Math.max(0, c.range.out - c.missing.after - (c.range.in + c.missing.before))

/**
 * Whether a clip may be taken at all: some of its frames are meant; its name or reel speaks for it (timecode alone does so
 * only where the list gives neither); what speaks for it outweighs what speaks against it.
 */
export function possible(c: Candidate): boolean {
  if (present(c) === 0) return false
  if (of(c, 'stamp')) return true
  const [name, reel, timecode] = [of(c, 'name'), of(c, 'reel'), of(c, 'timecode')]
  const scenes = of(c, 'scene')?.agreement === 'agrees'
  const names = name?.agreement === 'agrees' || name?.agreement === 'bent' || scenes
  const reels = reel?.agreement === 'agrees' || reel?.agreement === 'bent'
  // Timecode that fits only when it is taken otherwise needs a name that is no counter.
  if (timecode?.agreement === 'bent' && (!names || (name?.weak && !scenes && c.countedAt !== 'number'))) return false
  // A rule says that timecode tells nothing: then the reel alone does not tell which of its clips it is.
  if (timecode?.agreement === 'missing' && !names) return false
  if (!names && !reels) return name?.agreement === 'missing' && reel?.agreement === 'missing' && timecode?.agreement === 'agrees' && !timecode.weak
  const contra = against(c).length
  if (contra === 0) return true
  // A name that is nobody's leaves what the reel and the timecode say together.
  if (contra === 1 && name?.ofNone && reels && timecode?.agreement === 'agrees' && !timecode.weak) return true
  if (contra > 1) return false
  // One piece against: only strong evidence outweighs it.
  if (timecode?.agreement === 'contradicts') return names && reels
  return agreeing(c).some((e) => telling.has(e.kind) && !e.weak && e !== timecode) && timecode?.agreement === 'agrees' && (reels || !name?.weak)
}

const small: Partial<Record<Evidence['kind'], number>> = { folder: 3, rate: 1, length: 2 }

/** Larger is better; equal scores are candidates that nothing tells apart. */
export function score(c: Candidate): number {
  const value: Record<Evidence['agreement'], number> = { agrees: 8, bent: 4, missing: 0, contradicts: -20 }
  return (
    c.evidence.reduce(
      (sum, e) =>
        sum + (telling.has(e.kind) ? value[e.agreement] : e.agreement === 'agrees' ? (small[e.kind] ?? 0) - (e.weak && e.kind === 'folder' ? 1 : 0) : 0),
      0,
    ) - (against(c).some((e) => e.kind === 'timecode') ? Math.min(15, c.missing.before + c.missing.after) / 16 : 0)
  )
}

/** The rule for *certain*, given that the candidate is the only possible one. */
export function proven(c: Candidate): boolean {
  if (c.otherwise) return false
  // The stamp of a copy says whose it is, whatever the copy is called.
  if (of(c, 'stamp')?.agreement === 'agrees' && against(c).every((e) => e.kind === 'name')) return true
  if (against(c).length || c.evidence.some((e) => e.agreement === 'bent')) return false
  const good = agreeing(c).filter((e) => e.kind === 'name' || e.kind === 'reel' || e.kind === 'timecode')
  if (good.length >= 2 && good.some((e) => !e.weak)) return true
  const name = of(c, 'name')
  return name?.agreement === 'agrees' && !name.weak && of(c, 'timecode')?.agreement === 'agrees'
}

/** A candidate as it is, and counted otherwise where nothing tells which was meant. */
export const counts = (c: Candidate): Candidate[] =>
  c.otherwise
    ? [
        { ...c, otherwise: undefined },
        { ...c, ...c.otherwise, otherwise: undefined },
      ]
    : [c]

/** The same content at several places is one original: of what has one key the best stays, and of equals one that is here. */
export function bestOfEach<T extends { readonly clipId: string }>(
  list: readonly T[],
  clipOf: (id: string) => ClipFacts | undefined,
  keyOf: (item: T, clip: ClipFacts) => string,
  worth: (item: T) => number,
): T[] {
  const best = new Map<string, { item: T; clip: ClipFacts }>()
  for (const item of list) {
    const clip = clipOf(item.clipId)
    if (!clip) continue
    const key = keyOf(item, clip)
    const other = best.get(key)
    const more = other ? worth(item) - worth(other.item) : 1
    if (more > 0 || (more === 0 && other?.clip.away && !clip.away)) best.set(key, { item, clip })
  }
  return [...best.values()].map((b) => b.item)
}

/** Frames between the wanted range and the clip. */
export const gap = (c: Candidate): number => c.missing.before + c.missing.after
