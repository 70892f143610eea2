/** A spec while it is worked on: what a fresh one is, and what changes along with a setting. */
import { SpecDraft, type SpecShape } from '@naranja/contract'
import { codingOf, codings, type Spec, wrapperOf } from '@naranja/core/specs'

/** What a person chooses of a spec, without its code and version. */
export const draftOf = ({ code: _code, version: _version, ...rest }: SpecShape): SpecDraft => ({
  ...rest,
  kind: rest.kind === 'intermediate' ? 'intermediate' : 'proxy',
})

/** A draft as core's spec, for its sums. */
export const specOfDraft = (d: SpecDraft): Spec => ({ ...d, code: 'draft', version: 1 })

/** Families of codings, in the order in which they are offered. */
export const families = [...new Set(codings.map((c) => c.family))]
export const codingsOf = (family: string) => codings.filter((c) => c.family === family)

/** What must change along when another coding or wrapper is taken, so that the draft can still be made. */
export function following(d: SpecDraft): SpecDraft {
  const c = codingOf(d.coding)
  const wrapper = c.wrappers.includes(d.wrapper) ? d.wrapper : (c.wrappers[0] ?? d.wrapper)
  const w = wrapperOf(wrapper)
  const { scale } = c
  const quality = d.quality !== null && scale && d.quality >= scale.least && d.quality <= scale.most ? d.quality : null
  const [first] = c.rasters ?? []
  const exact = d.frame.by === 'exact' ? d.frame : null
  const frame: SpecDraft['frame'] =
    first && !c.rasters?.some((r) => r.width === exact?.width && r.height === exact.height)
      ? { by: 'exact', width: first.width, height: first.height }
      : d.frame
  const coding = w.sound.includes(d.sound.coding) ? d.sound.coding : (w.sound.find((s) => s === 'pcm24') ?? w.sound[0] ?? d.sound.coding)
  const rate = w.sampleRates.length && d.sound.rate !== null && !w.sampleRates.includes(d.sound.rate) ? null : d.sound.rate
  const sound = { ...d.sound, coding, rate }
  if (d.coding !== 'unchanged') return { ...d, wrapper, quality, frame, sound }
  // Streams that are not re-encoded keep everything.
  const kept = { frame: { by: 'original' }, enlarge: false, fields: 'kept', rate: 'as-shot', look: 'left-out', burnIns: [] } as const
  return { ...d, ...kept, burnIns: [], wrapper, quality, sound: { ...sound, channels: d.sound.channels === 'mix' ? 'all' : d.sound.channels } }
}

/** A spec to begin with; what is not said here is as the contract has it. */
export const fresh = (name: string): SpecDraft =>
  SpecDraft.parse({
    name,
    kind: 'proxy',
    coding: 'prores-proxy',
    wrapper: 'mov',
    frame: { by: 'height', height: 1080 },
    sound: { channels: 'all', coding: 'pcm24' },
  })

/** A name that no other spec has: the same with a number behind. */
export function freeName(name: string, taken: readonly string[]): string {
  const has = (n: string) => taken.some((t) => t.toLowerCase() === n.toLowerCase())
  if (!has(name)) return name
  for (let i = 2; ; i++) if (!has(`${name} ${i}`)) return `${name} ${i}`
}

/** Where the page of specs stands: the code of one that was just added ('' until it has one), that in the address, and whether the list is being fetched. */
export type SpecsPage = { coming: string | null; inAddress: string | undefined; listIsComing: boolean }

/**
 * The spec that is open to be changed. While an added one is awaited no other is:
 * list and address follow in any order, and what is typed in between would land in a spec that nobody meant.
 */
export function openSpec<S extends { code: string }>(specs: readonly S[], { coming, inAddress, listIsComing }: SpecsPage): S | undefined {
  const inList = (code: string | undefined) => specs.find((s) => s.code === code)
  if (coming !== null) return inList(coming)
  return inList(inAddress) ?? (inAddress && listIsComing ? undefined : specs[0])
}
