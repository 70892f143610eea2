/** Lists, timelines and tables bent at random: none may make a reader throw, and no event may be lost but the one that was bent. */
import type { Problem } from '../cutlist/index.ts'
import { readEdl } from '../edl/index.ts'
import { columnUse, readCutTable } from '../exchange/index.ts'
import { readOtio } from '../otio/index.ts'
import { rate } from '../time/index.ts'
import { bend, type Pick, picker } from './bend.ts'

const pal = rate(25)
const two = (n: number): string => String(n).padStart(2, '0')
const told = (problems: readonly Problem[]): boolean => problems.every((p) => Number.isInteger(p.line) && p.line >= 0 && p.message !== '')

const edlLines = Array.from({ length: 12 }, (_, i) => [
  `${String(i + 1).padStart(3, '0')}  A0${10 + i}     V     C        10:00:00:00 10:00:02:00 01:00:${two(i * 2)}:00 01:00:${two(i * 2 + 2)}:00`,
  `* FROM CLIP NAME: A0${10 + i}C001_SF.mov`,
]).flat()

function fuzzEdl(pick: Pick): void {
  const at = pick(edlLines.length)
  const bent = edlLines.with(at, bend(edlLines[at] as string, pick))
  const { value, problems } = readEdl(['TITLE: X', 'FCM: NON-DROP FRAME', ...bent].join('\n'), { rate: pal, file: 'cut.edl' })
  const there = new Set(value.events.map((e) => `${e.reel} ${e.recordIn}`))
  for (let i = 0; i < 12; i++)
    if (Math.floor(at / 2) !== i && !there.has(`A0${10 + i} ${90_000 + i * 50}`))
      throw new Error(`Event ${i + 1} was lost by a line that is not its own: ${JSON.stringify(bent[at])}`)
  if (!told(problems)) throw new Error(`A problem without a line: ${JSON.stringify(bent[at])}`)
}

const time = (value: number) => ({ OTIO_SCHEMA: 'RationalTime.1', rate: 25, value })
const otioLines = JSON.stringify(
  {
    OTIO_SCHEMA: 'Timeline.1',
    name: 'cut',
    global_start_time: time(90_000),
    tracks: {
      OTIO_SCHEMA: 'Stack.1',
      children: [
        {
          OTIO_SCHEMA: 'Track.1',
          kind: 'Video',
          children: ['a', 'b', 'c'].map((name) => ({
            OTIO_SCHEMA: 'Clip.2',
            name,
            source_range: { OTIO_SCHEMA: 'TimeRange.1', start_time: time(900_010), duration: time(20) },
          })),
        },
      ],
    },
  },
  null,
  1,
).split('\n')
const otioAt = (name: string): number => otioLines.findIndex((l) => l.includes(`"name": "${name}"`))

function fuzzOtio(pick: Pick): void {
  const i = pick(otioLines.length)
  const line = bend(otioLines[i] as string, pick)
  const { value, problems } = readOtio(otioLines.with(i, line).join('\n'), { otherwise: pal, file: 'cut.otio' })
  if (!told(problems)) throw new Error(`A problem without a line: ${JSON.stringify(line)}`)
  // What lies wholly apart from the bent line is there, or it was said that the file is damaged.
  if (problems.some((p) => p.severity === 'error')) return
  for (const name of ['a', 'b', 'c'])
    if (Math.abs(otioAt(name) - i) > 14 && !value.events.some((e) => e.clipName === name))
      throw new Error(`Clip ${name} was lost by line ${i + 1}: ${JSON.stringify(line)}`)
}

const head = ['Event', 'Track', 'Reel', 'Clip name', 'Source in', 'Length', 'Record in', 'Speed', 'Transition', 'Comment']
const tableRows = Array.from({ length: 12 }, (_, i) => [
  String(i + 1),
  'V1',
  `A0${10 + i}`,
  `A0${10 + i}C001_SF.mov`,
  '10:00:00:00',
  '50',
  `01:00:${two(i * 2)}:00`,
  '100 %',
  'D 12',
  'nice',
])

function fuzzTable(pick: Pick): void {
  const [row, cell] = [pick(12), pick(head.length)]
  const rows = tableRows.map((r, i) => (i === row ? r.with(cell, bend(r[cell] as string, pick)) : r))
  const { value, problems } = readCutTable(
    { rows: [head, ...rows], lines: Array.from({ length: 13 }, (_, i) => i + 1) },
    { head: 0, columns: head.map(columnUse) },
    { rate: pal, file: 'cut.csv' },
  )
  const there = new Set(value.events.map((e) => `${e.reel} ${e.recordIn}`))
  for (let i = 0; i < 12; i++)
    if (i !== row && !there.has(`A0${10 + i} ${90_000 + i * 50}`)) throw new Error(`Row ${i + 2} was lost by row ${row + 2}: ${JSON.stringify(rows[row])}`)
  if (!told(problems)) throw new Error(`A problem without a line: ${JSON.stringify(rows[row])}`)
}

export const fuzzed = { edl: fuzzEdl, otio: fuzzOtio, table: fuzzTable } as const

/** So many bends of one form; the same seed gives the same. Throws at the first that a reader does not bear. */
export function fuzz(form: keyof typeof fuzzed, times: number, seed: number): void {
  const pick = picker(seed)
  for (let n = 0; n < times; n++) fuzzed[form](pick)
}
