/** The stages of a cut, event by event: as imported, reconnected, conformed. */
import type { CutDetail, EventShape, LaneClip, LinkRow, PlanRow, PullRow } from '@naranja/contract'
import { clockOf } from '@naranja/core/cutlist'
import { stem } from '@naranja/core/naming'
import { formatFrames, timecodeText } from '@naranja/core/time'

/** What an event is at one stage: a name, and where in it; `rest` where there is nothing of it yet. */
export interface Stage {
  readonly name: string
  readonly detail: string
  readonly rest: boolean
}

export interface StageRow {
  readonly event: EventShape
  readonly link: LinkRow | undefined
  readonly imported: Stage
  readonly reconnected: Stage
  readonly conformed: Stage
  /** In what the later stages are not as the list says, as clauses. */
  readonly differs: readonly string[]
}

const nothing = (name: string): Stage => ({ name, detail: '', rest: true })
const plain = (label: string): string => label.replace(';', ':')

export function stagesOf(
  cut: CutDetail,
  links: ReadonlyMap<string, LinkRow>,
  clips: ReadonlyMap<string, LaneClip>,
  plan: readonly PlanRow[],
  pulls: readonly PullRow[],
): StageRow[] {
  const planned = new Map(plan.map((p) => [p.eventId, p]))
  const made = pulls.filter((p) => p.state === 'checked')
  return cut.events.map((event): StageRow => {
    const [link, p] = [links.get(event.id), planned.get(event.id)]
    const clip = link?.clipId ? clips.get(link.clipId) : undefined
    const differs: string[] = []
    const name = event.clipName ?? event.sourceFile ?? (event.kind === 'camera' ? '' : event.kind)
    const imported: Stage = {
      name: name || `reel ${event.reel ?? 'none'}`,
      detail: [`${timecodeText(event.sourceIn)} – ${timecodeText(event.sourceOut)}`, event.reel ?? 'no reel', clockOf(event)].filter(Boolean).join('  '),
      rest: false,
    }
    let reconnected = nothing(link?.state === 'none-needed' ? 'needs no original' : link?.state === 'several' ? 'could be several' : 'not found')
    if (clip && link?.range) {
      const { in: from, out: to } = link.range
      const at = (f: number) => formatFrames((clip.start ?? 0) + f, clip.rate, clip.drop)
      const label = clip.start === null ? 'no timecode' : `${at(from)} – ${at(to)}`
      reconnected = { name: clip.name, detail: `${label}  ${clip.reel ?? clip.lane}  frames ${from}–${to - 1} of ${clip.frames}`, rest: false }
      if (name && stem(name).toLowerCase() !== stem(clip.name).toLowerCase()) differs.push('called otherwise')
      const [wanted, is] = [event.reel?.toLowerCase(), clip.reel?.toLowerCase()]
      if (wanted && is && wanted !== is) differs.push(is.startsWith(wanted) ? 'its reel cut short' : 'another reel')
      if (
        clip.start !== null &&
        plain(at(event.speed && event.speed.num < 0 ? to : from)) !== plain(timecodeText(event.speed && event.speed.num < 0 ? event.sourceOut : event.sourceIn))
      )
        differs.push('counted otherwise')
      if (from < 0 || to > clip.frames) differs.push('reaches past its original')
    } else if (link && link.state !== 'none-needed') differs.push('tied to nothing')
    let conformed = nothing(p ? (p.block ?? (p.clipId ? '' : event.kind)) : 'not part of the picture')
    if (p?.block) differs.push('cannot be rendered')
    else if (p?.clipId && p.used) {
      const used = p.used
      const pull = made.find((q) => q.clipId === p.clipId && q.range.in <= used.in && q.range.out >= used.out)
      const source = pull ? `${pull.path.slice(pull.path.lastIndexOf('/') + 1)}` : (p.finishing ?? p.name)
      const what = pull ? 'pull' : p.finishing ? 'intermediate' : ''
      const first = pull ? pull.range.in : 0
      const handles = p.handles ? `handles ${p.handles.head} and ${p.handles.tail}` : ''
      const size = p.scale === null || p.scale === 100 ? '' : `${p.scale} %`
      conformed = {
        name: source,
        detail: [what, `frames ${used.in - first}–${used.out - 1 - first}`, handles, size].filter(Boolean).join('  '),
        rest: false,
      }
      if (p.finishing) differs.push('from an intermediate')
      for (const n of p.notes) if (n.severity === 'warning' && n.code !== 'finishing-source') differs.push(n.text)
    }
    return { event, link, imported, reconnected, conformed, differs }
  })
}
