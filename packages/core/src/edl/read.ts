/** Reads edit decision lists in the CMX 3600 conventions and their common widenings. Never throws on bad input. */
import { type CutSource, type ListPart, type Problem, problemsOf } from '../cutlist/index.ts'
import { linesOf } from '../text/index.ts'
import { dayFrames, nominal, type Rate, timecodeText } from '../time/index.ts'
import { comesBefore, type Draft, finish, lineOf, overMidnight } from './draft.ts'
import { type EventLine, eventLine } from './line.ts'
import { ListReading } from './reading.ts'

export interface EdlOptions {
  /** The rate the list counts at. */
  readonly rate: Rate
  /** Shown in problems. */
  readonly file: string
  /** Frames that share one label, above 30 frames a second (ST 12-3); without it, it is told from the digits. */
  readonly perLabel?: number | undefined
}

export interface EdlResult {
  readonly value: ListPart & { readonly title: string | null; readonly source: CutSource }
  readonly problems: readonly Problem[]
}

/**
 * Frames that share one label: above 30 frames a second lists may count in pairs or fours, and then no frame digit reaches
 * the lower count. Fourteen different labels are asked for, whole seconds left out, which tell nothing; with fewer it is plain.
 */
function labelsShared(lines: readonly (EventLine | null)[], r: Rate): number {
  const n = nominal(r)
  if (n <= 30) return 1
  const digits = new Set<string>()
  let most = 0
  for (const l of lines)
    for (const t of l?.times ?? []) {
      const f = Number(/\d+$/.exec(t)?.[0])
      if (f > 0) digits.add(t)
      most = Math.max(most, f)
    }
  if (digits.size < 14) return 1
  return [4, 2].find((k) => n % k === 0 && n / k >= 24 && n / k <= 30 && most < n / k) ?? 1
}

export function readEdl(text: string, options: EdlOptions): EdlResult {
  const { rate: r, file } = options
  const report = problemsOf(file)
  const lines = linesOf(text)
  const eventLines = lines.map(eventLine)
  const perLabel = options.perLabel ?? labelsShared(eventLines, r)
  if (perLabel > 1 && !options.perLabel)
    report('warning', 'pairs', 0, `No frame number reaches ${nominal(r) / perLabel}: ${perLabel} frames were taken to share each timecode.`)
  const signs = eventLines.some((l) => l?.times.some((t) => /[;.,]\d{2,3}$/.test(t)))
  const reading = new ListReading(r, perLabel, signs, report)
  for (const [index, line] of lines.entries()) reading.line(line, eventLines[index] ?? null, index + 1)
  reading.end()
  const { drafts, kept, title, dropped } = reading
  overMidnight(drafts, dayFrames(r, dropped), nominal(r) * 3600)

  const backwards = (d: Draft) => comesBefore(d.sourceOut, d.sourceIn) && !(d.speed !== null && Number(d.speed) < 0)
  const events = drafts.flatMap((d, i) => {
    if (!backwards(d)) return finish(d, drafts, i, r, perLabel)
    reading.leaveOut(
      'source-order',
      d.lastLine === d.firstLine ? d.firstLine : lineOf(d, lines),
      d.text,
      `Source out ${timecodeText(d.sourceOut)} lies before source in ${timecodeText(d.sourceIn)}`,
    )
    return []
  })
  if (events.length === 0) report('error', 'empty', 0, 'No event could be read from this file.')
  return {
    value: {
      ...{ events, drop: dropped, title },
      source: { format: 'edl', title, kept: kept.sort((a, b) => a.line - b.line), perLabel },
    },
    problems: report.all(),
  }
}
