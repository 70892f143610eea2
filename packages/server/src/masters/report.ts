/** The report that is kept with a master. */
import type { MasterReport } from '@naranja/contract'
import { notCarried, type PlanEvent } from '@naranja/core/plan'
import type { Link } from '@naranja/core/reconnect'
import type { Planned } from '../cuts/index.ts'
import { plural } from '../platform/index.ts'
import type { CutRecord } from '../records/index.ts'
import type { Checked } from './check.ts'
import { masterSpec } from './names.ts'

/** What is said of a master once it is checked: what was checked, and what people should know of it. */
export function reportOf(planned: Planned, cut: CutRecord, links: readonly Link[], checked: Checked, master: { path: string; checksum: string }): MasterReport {
  const { plan } = planned
  const fromCopies = finishedBy(planned)
  const lacking = plan.events.filter((e) => e.partial && e.missing > 0)
  const lightUsed = lightIn(planned)
  return {
    format: 1,
    master: master.path,
    cut: cut.name,
    spec: masterSpec.name,
    frames: checked.frames,
    framesExpected: plan.length,
    verified: checked.checks.every((c) => c.passed),
    checks: [
      ...checked.checks,
      ...(fromCopies.length ? [finishedText(fromCopies)] : []),
      ...(lacking.length ? [missingText(lacking)] : []),
      ...enlargedText(planned),
      ...lightText(lightUsed),
    ],
    events: checked.events,
    placeholders: plan.events.filter((e) => e.placeholder).map((e) => ({ eventId: e.eventId, reason: e.block ?? '' })),
    missing: lacking.map((e) => ({ eventId: e.eventId, frames: e.missing, held: e.block === null })),
    finishing: fromCopies,
    enlarged: planned.enlarged.map((s) => ({ ...s, eventIds: [...s.eventIds] })),
    light: lightUsed,
    unconfirmed: links.filter((l) => l.state === 'likely').map((l) => l.eventId),
    notCarried: notCarried(cut.cut, plan),
    checksum: master.checksum,
    made: new Date().toISOString(),
  }
}

/** What was not finished from its original, clip by clip. */
const finishedBy = ({ plan, clips, finishing }: Planned): MasterReport['finishing'] =>
  [...finishing].flatMap(([id, f]) => {
    const eventIds = plan.events.filter((e) => e.clipId === id && e.block === null).map((e) => e.eventId)
    if (eventIds.length === 0) return []
    const decided = f.by === 'clip' ? 'decided for this clip' : 'decided for every clip of the project whose original cannot be read'
    return [{ clip: clips.get(id)?.name ?? '?', copy: f.name, eventIds, decided: [decided, ...f.notes].join(', ') }]
  })

const finishedText = (list: MasterReport['finishing']): MasterReport['checks'][number] => {
  const events = list.reduce((n, f) => n + f.eventIds.length, 0)
  return {
    code: 'finishing',
    passed: true,
    text: `${plural(events, 'event comes', 'events come')} from intermediates, as decided: ${list.map((f) => f.copy).join(', ')}`,
  }
}

/** Sources that are enlarged, as a check that only tells. */
const enlargedText = ({ enlarged }: Planned): MasterReport['checks'] =>
  enlarged.length === 0
    ? []
    : [
        {
          code: 'enlarged',
          passed: true,
          text: `${plural(enlarged.length, 'source is', 'sources are')} smaller than the master and enlarged: ${enlarged.map((s) => `${s.clip} (${s.width}×${s.height}) to ${s.percent} %`).join(', ')}`,
        },
      ]

/** Light copies that stand for originals, as a person named them. */
const lightIn = ({ plan, clips, light }: Planned): MasterReport['light'] =>
  [...light].flatMap(([id, of]) => {
    const eventIds = plan.events.filter((e) => e.clipId === id && e.block === null).map((e) => e.eventId)
    return eventIds.length ? [{ clip: clips.get(id)?.name ?? '?', of, eventIds }] : []
  })
const lightText = (list: MasterReport['light']): MasterReport['checks'] =>
  list.length === 0
    ? []
    : [
        {
          code: 'light-copy',
          passed: true,
          text: `Light copies were used as originals, as decided: ${list.map((l) => `${l.clip}, a copy of ${l.of}`).join('; ')}`,
        },
      ]

const missingText = (list: readonly PlanEvent[]): MasterReport['checks'][number] => {
  const n = list.reduce((sum, e) => sum + e.missing, 0)
  const held = list.every((e) => e.block === null)
  return {
    code: 'missing',
    passed: true,
    text: `${plural(n, 'frame')} of ${plural(list.length, 'event')} ${n === 1 ? 'does' : 'do'} not exist in the originals: ${held ? 'the picture beside them is held' : 'placeholders stand for them'}`,
  }
}
