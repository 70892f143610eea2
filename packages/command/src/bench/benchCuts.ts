/** Figures of cut lists and reconnection: reading, finding, and how often it is right. */
import { assembleCut, type Cut, type CutEvent } from '@naranja/core/cutlist'
import { readEdl } from '@naranja/core/edl'
import { type ClipFacts, reconnect, type Rule } from '@naranja/core/reconnect'
import { linesOf } from '@naranja/core/text'
import { bentOriginals, bentWays, outcomeOf } from '@naranja/core/testing'
import { digitsAt, formatFrames, rate } from '@naranja/core/time'
import { type Figure, median, spread, timed } from './benchTools.ts'
import { say } from '../base/index.ts'

const pal = rate(25)

/** Reading a list of 10,000 events, each with its name, its file and a correction, against splitting its text into fields. */
export async function readingEdl(): Promise<Figure> {
  const lines = ['TITLE: LONG', 'FCM: NON-DROP FRAME', '']
  for (let i = 0; i < 10_000; i++) {
    const t = (n: number) => formatFrames(n, pal)
    const roll = `A${String(i % 90).padStart(3, '0')}`
    const dissolve = i % 20 === 19
    const times = `${t(900_000 + i * 40)} ${t(900_040 + i * 40)} ${t(90_000 + i * 40)} ${t(90_040 + i * 40)}`
    if (dissolve) lines.push(`${String(i + 1).padStart(6, '0')}  ${roll}     V     C        ${t(0)} ${t(0)} ${t(90_000 + i * 40)} ${t(90_000 + i * 40)}`)
    lines.push(`${String(i + 1).padStart(6, '0')}  ${roll}     V     ${dissolve ? 'D    012' : 'C       '} ${times}`)
    lines.push(
      `* ${dissolve ? 'TO' : 'FROM'} CLIP NAME: ${roll}C${String(i % 50).padStart(3, '0')}_261108_SF.mov`,
      `* SOURCE FILE: /Quay drive/${roll}/${i}.mov`,
    )
    if (i % 10 === 0) lines.push('* ASC_SOP (1.02 0.9 1) (-0.01 0 0.03) (1 1 1.1)', '* ASC_SAT 0.85')
  }
  const text = lines.join('\r\n')
  const ours: number[] = []
  const base: number[] = []
  for (let i = 0; i < 15; i++) {
    base.push(
      await timed(() => {
        const fields = linesOf(text).map((l) => l.trim().split(/\s+/))
        if (fields.length < 30_000) throw new Error('The text has too few lines.')
      }),
    )
    ours.push(
      await timed(() => {
        const { value, problems } = readEdl(text, { rate: pal, file: 'long.edl' })
        if (value.events.length !== 10_000 || problems.length > 0) throw new Error('The list was not read whole.')
      }),
    )
  }
  return { name: 'reading a list of 10,000 events against splitting its text into fields', value: median(ours) / median(base), goal: 5, unit: 'ratio' }
}

/** A shoot of so many originals, and a cut of so many events of it: every tenth name bent, every fiftieth of nothing that is there. */
function shoot(originals: number, wanted: number): { clips: ClipFacts[]; cut: Cut } {
  const clips = Array.from({ length: originals }, (_, i): ClipFacts => {
    const roll = `A${String(Math.floor(i / 50)).padStart(4, '0')}`
    return {
      id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
      name: `${roll}C${String(i % 50).padStart(3, '0')}_261108_SF.mp4`,
      aliases: [],
      reel: roll,
      reelDerived: true,
      place: `Quay drive/Day ${i % 40}/${roll}/`,
      rate: pal,
      frames: 2500,
      start: ((i * 3100) % (24 * 3600)) * 25,
      drop: false,
      hasPicture: true,
      hasSound: true,
      contentId: `${i.toString(16)}-content`,
      ...{
        roll,
        scene: String(i % 200),
        take: String(i % 9),
        coding: 'H.264 High',
        pixels: 4096 * 2160,
        recorded: i,
        copies: [`/Proxies/${roll}/C${i % 50}.mov`],
      },
      away: false,
    }
  })
  const events = Array.from({ length: wanted }, (_, i): CutEvent => {
    const c = clips[(i * 7919) % clips.length] as ClipFacts
    const source = digitsAt((c.start ?? 0) + (i % 2000), pal)
    // Every tenth name is bent, every fiftieth unknown.
    const name = i % 50 === 0 ? `NOWHERE_${i}.mov` : i % 10 === 0 ? c.name.toLowerCase() : c.name
    return {
      id: `cut/V1/${i}`,
      number: String(i),
      track: 'V1',
      medium: 'picture',
      kind: 'camera',
      reel: i % 50 === 0 ? 'Z9' : c.reel,
      clipName: name,
      sourceFile: `/Volumes/Cut/${c.reel}/${name}`,
      sourceIn: source,
      sourceOut: source,
      recordIn: 90000 + i * 50,
      recordOut: 90050 + i * 50,
      transition: { type: 'cut', frames: 0, code: 'C', fromBlack: false },
      speed: null,
      comments: [],
      file: 0,
      firstLine: i,
      lastLine: i,
    }
  })
  return { clips, cut: assembleCut('cut', pal, [{ events, drop: false }]) }
}

/** Rules of every kind that is weighed event by event. */
const rules: readonly Rule[] = [
  { id: '1', on: true, kind: 'reels', pairs: [{ from: 'X1', to: 'A0001' }] },
  { id: '2', on: true, kind: 'shift', frames: 25, of: { kind: 'reels', reels: ['X1'] } },
  { id: '3', on: true, kind: 'prefer', what: 'here', text: '' },
]

async function reconnected({ clips, cut }: { clips: ClipFacts[]; cut: Cut }): Promise<number> {
  return timed(() => {
    const links = reconnect(cut, clips, { rules })
    if (links.filter((l) => l.state === 'certain').length < cut.events.length * 0.8) throw new Error('The reconnection did not find what it should.')
  })
}

/** 3,000 events against 100,000 originals, every evidence weighed and rules applied, against parsing the originals from JSON; both in turn, fifteen times. */
export async function reconnecting(): Promise<Figure> {
  const made = shoot(100_000, 3000)
  const text = JSON.stringify(made.clips)
  const ratios: number[] = []
  for (let i = -1; i < 15; i++) {
    const base = await timed(() => JSON.parse(text))
    const ours = await reconnected(made)
    // The first round meets code that has never run.
    if (i >= 0) ratios.push(ours / base)
  }
  return {
    name: `3,000 events against 100,000 originals, against parsing the originals from JSON (${spread(ratios)})`,
    value: median(ratios),
    goal: 1,
    unit: 'ratio',
  }
}

/** How the time grows when originals and events are twice as many: 1 is as they do. */
export async function reconnectingGrowth(): Promise<Figure> {
  const [half, whole] = [shoot(50_000, 3000), shoot(100_000, 6000)]
  // One after the other, so that both meet the machine in the same mood.
  const ratios: number[] = []
  for (let i = 0; i < 5; i++) {
    const a = await reconnected(half)
    ratios.push((await reconnected(whole)) / a / 2)
  }
  return { name: 'twice as many originals and events, against twice the time', value: median(ratios), goal: 1.05, unit: 'ratio' }
}

/** Of 2,000 events bent in twenty ways, the share of those that can be decided and were not decided rightly; printed by way. Any that is certain and wrong fails. */
export async function accuracy(): Promise<Figure> {
  const clips = bentOriginals(7)
  let [right, decidable] = [0, 0]
  for (const way of bentWays(clips, 100, 3)) {
    const o = outcomeOf(way, reconnect(way.cut, clips))
    right += o.right
    decidable += o.decidable
    const share = o.decidable ? `${Math.round((o.right / o.decidable) * 100)} % right` : `${o.open} of ${o.events} left open`
    say(`        ${share.padEnd(20)} ${String(o.certain).padStart(3)} certain  ${o.name}`)
    if (o.wrongCertain > 0) throw new Error(`${o.wrongCertain} events (${o.name}) are certain and wrong.`)
  }
  return { name: 'events that can be decided and are not decided rightly', value: 1 - right / decidable, goal: 0.03, unit: 'ratio' }
}
