/** Ties events to originals: gathers candidates, weighs them, and says why. Wrong is worse than none. */
import type { Cut, CutEvent } from '../cutlist/index.ts'
import { type Inventory, inventory } from './inventory.ts'
import { linkOf } from './link.ts'
import type { ClipFacts, Decision, Link, SourceCount } from './model.ts'
import { type Rule, ruledClips, ruledEvent, rulesClips } from './rules.ts'
import type { PictureMatch } from './seen.ts'

export interface ReconnectOptions {
  readonly sourceCount?: SourceCount
  /** What people settled, by event id. */
  readonly decisions?: ReadonlyMap<string, Decision>
  /** In their order. */
  readonly rules?: readonly Rule[]
  /** What names an event in rules that are meant for some events. */
  readonly keyOf?: (event: CutEvent) => string
  /** What the edit's own pictures are like, by event id: it settles what is several, not found, or countable in two ways. */
  readonly seen?: ReadonlyMap<string, readonly PictureMatch[]>
  /** At most so many candidates are kept with an event; 9 without. */
  readonly most?: number
  /** Without what comes nearest to an event that nothing fits: enough where only it is asked what each is tied to. */
  readonly bare?: boolean
  /** The events that are asked about, by id; all without. */
  readonly only?: ReadonlySet<string>
}

/** The link of every event that is asked about, in the order of the cut. */
export const reconnect = (cut: Cut, clips: readonly ClipFacts[], options: ReconnectOptions = {}): Link[] => new Reconnection(cut, clips).links(options)

/** At most so many answers are kept of an event. */
const keptOfEvent = 4

/**
 * A cut against originals, asked again and again as decisions and rules change: an event is weighed anew only where what
 * people settled about it, or what rules make of it, is another.
 */
export class Reconnection {
  /** By what rules make of the originals. */
  private readonly inventories = new Map<string, Inventory>()
  private readonly known = new Map<CutEvent, Map<string, Link>>()
  constructor(
    private readonly cut: Cut,
    readonly clips: readonly ClipFacts[],
  ) {}

  links(options: ReconnectOptions = {}): Link[] {
    const rules = options.rules ?? []
    const ofClips = JSON.stringify(rules.filter(rulesClips))
    let inv = this.inventories.get(ofClips)
    if (!inv) {
      if (this.inventories.size >= keptOfEvent) this.inventories.clear()
      inv = inventory(ruledClips(this.clips, rules))
      this.inventories.set(ofClips, inv)
    }
    const asked = options.only ? this.cut.events.filter((e) => options.only?.has(e.id)) : this.cut.events
    const texts = new Map(rules.map((r) => [r, JSON.stringify(r)]))
    const plainKey = `${ofClips}\0${options.sourceCount ?? ''}`
    return asked.map((event) => this.linkOf(event, inv, plainKey, options, texts))
  }

  /** `plainKey`: what an answer is kept by that hangs on the originals alone. */
  private linkOf(written: CutEvent, inv: Inventory, plainKey: string, options: ReconnectOptions, texts: ReadonlyMap<Rule, string>): Link {
    const decision = options.decisions?.get(written.id)
    let answers = this.known.get(written)
    if (!answers) {
      answers = new Map()
      this.known.set(written, answers)
    }
    const seen = options.seen?.get(written.id)
    const plain = !decision && !seen && !options.most && !options.rules?.length
    // What nothing was said about hangs on the originals alone: of thousands of events nearly all.
    const simple = plain ? answers.get(plainKey) : undefined
    if (simple) return simple
    const own = decision?.action === 'camera' ? { ...written, kind: 'camera' as const } : written
    const ruled = ruledEvent(own, options.rules ?? [], this.cut.rate, () => options.keyOf?.(written) ?? '')
    // All that the answer hangs on beside the list and the originals.
    const question = [plainKey]
    if (!plain) question.push(decision ? JSON.stringify(decision) : '', ruled.event === written ? '' : JSON.stringify(ruled.event))
    if (seen || options.most) question.push(JSON.stringify([seen, options.most]))
    if (ruled.touched) {
      const { notes, scene, take, ignored, only, preferences } = ruled
      if (notes.length || ignored.size || scene !== null || take !== null) question.push(JSON.stringify([notes, scene, take, [...ignored]]))
      for (const r of only) question.push(texts.get(r) as string)
      for (const r of preferences) question.push(texts.get(r) as string)
    }
    const key = question.join('\0')
    const { sourceCount, most, bare = false } = options
    const bareKey = `${key}\0bare`
    const old = answers.get(key) ?? (bare ? answers.get(bareKey) : undefined)
    if (old) return old
    const link = linkOf({ written, own, ruled, decision, cut: this.cut, inv, sourceCount, seen: seen ?? [], most, bare })
    if (answers.size >= keptOfEvent) answers.delete(answers.keys().next().value as string)
    answers.set(bare ? bareKey : key, link)
    return link
  }
}
