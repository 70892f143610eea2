/** How long this machine takes to make copies, learned from what it made. */
import { firstGuess, type Making } from '@naranja/core/estimate'
import type { Spec } from '@naranja/core/specs'
import type { Context } from '../platform/index.ts'
import { type ClipRecord, settings } from '../records/index.ts'
import { everySetting, readSetting, writeSetting } from '../store/index.ts'

/** What is decoded for it. */
type Coded = Pick<ClipRecord, 'technical'>

/** By what is made of what: another name or place makes a spec no slower. */
const paceName = (spec: Spec, codec: string): string => `${spec.coding}: ${codec}`
const paceBegin = (spec: Spec): string => paceName(spec, '')

/** Knows how many times as long as guessed this machine takes. */
export class Pace {
  private readonly known: ReadonlyMap<string, number>
  private constructor(known: ReadonlyMap<string, number>) {
    this.known = known
  }
  static async of(ctx: Context): Promise<Pace> {
    return new Pace(new Map([...(await everySetting(ctx.db, settings.pace))].filter(([, factor]) => factor > 0)))
  }
  /** Whether copies of such originals under such a spec have been made here. */
  measured(spec: Spec, clip: Coded): boolean {
    return this.known.has(paceName(spec, clip.technical.codec))
  }
  /** Seconds of this machine that copies of a clip from one decode take. What has not been measured is judged by what is nearest to it. */
  seconds(clip: Coded, copies: readonly Making[]): number {
    const guess = firstGuess(copies)
    return copies.reduce((n, c, i) => n + this.factor(c.spec, clip) * (guess[i] ?? 0), 0)
  }
  /** By spec and codec: thousands of clips ask for few. */
  private readonly factors = new Map<Spec, Map<string, number>>()
  private factor(spec: Spec, clip: Coded): number {
    const { codec } = clip.technical
    const mine = this.factors.get(spec) ?? new Map<string, number>()
    this.factors.set(spec, mine)
    const factor = mine.get(codec) ?? this.known.get(paceName(spec, codec)) ?? this.nearest(spec)
    mine.set(codec, factor)
    return factor
  }
  private nearest(spec: Spec): number {
    const like = [...this.known].filter(([name]) => name.startsWith(paceBegin(spec)))
    const near = (like.length ? like : [...this.known]).map(([, factor]) => Math.log(factor))
    return Math.exp(near.reduce((a, b) => a + b, 0) / (near.length || 1))
  }
}

/** Lets the making of copies of a clip from one decode, which took so many seconds of this machine, count for a third. */
export async function learnPace(ctx: Context, clip: Coded, copies: readonly Making[], spent: number): Promise<void> {
  const guess = firstGuess(copies).reduce((a, b) => a + b, 0)
  if (guess <= 0 || spent <= 0) return
  const now = spent / guess
  for (const name of new Set(copies.map((c) => paceName(c.spec, clip.technical.codec)))) {
    const { value: before } = await readSetting(ctx.db, settings.pace, name)
    await writeSetting(ctx.db, settings.pace, name, before > 0 ? before * 0.67 + now * 0.33 : now, null)
  }
}
