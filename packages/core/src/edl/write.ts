/** Writes a picture-and-sound cut as an edit decision list in the CMX 3600 conventions. */
import { formatFrames, nominal, type Rate, type Step } from '../time/index.ts'

/** One written event; all positions in frames of the list's rate, half-open. */
export interface EdlEntry {
  readonly number: number
  /** Digits of the number, zeros in front. */
  readonly digits?: number
  readonly reel: string
  /** Channel code: V, A, A2, AA/V. */
  readonly channels: string
  readonly transition: { readonly code: string; readonly frames: number }
  readonly sourceIn: number
  readonly sourceOut: number
  /** Source timecode is drop-frame; without it, as the record is. */
  readonly sourceDrop?: boolean
  readonly recordIn: number
  readonly recordOut: number
  readonly clipName: string | null
  readonly sourceFile: string | null
  /** What the outgoing side is, for the first line of a two-line transition. */
  readonly outgoing: { readonly reel: string; readonly source: number; readonly clipName: string | null } | null
  readonly speed?: Step | null
  /** Stands behind the times. */
  readonly tail?: string
  readonly comments: readonly string[]
  /** Lines that stand before it and belong to no event. */
  readonly before?: readonly string[]
}

export interface EdlDocument {
  readonly title: string
  readonly rate: Rate
  readonly drop: boolean
  readonly entries: readonly EdlEntry[]
  /** Lines behind the title, and at the very end. */
  readonly head?: readonly string[]
  readonly after?: readonly string[]
}

const oneLine = (text: string): string => (/[\r\n\u2028\u2029]/.test(text) ? text.replace(/[\r\n\u2028\u2029]+/g, ' ') : text).trim()

/** A speed as frames a second against the list's whole rate: one decimal where that is exact, else three. */
function speedText(speed: Step, r: Rate): { text: string; exact: boolean } {
  const thousandths = (speed.num * nominal(r) * 1000) / speed.den
  const held = Math.round(thousandths)
  const decimals = held % 100 === 0 ? 1 : 3
  const sign = held < 0 ? '-' : ''
  return { text: `${sign}${(Math.abs(held) / 1000).toFixed(decimals).padStart(4 + decimals - sign.length, '0')}`, exact: Math.abs(thousandths - held) < 1e-9 }
}

/** The list as text with CR LF line ends, and what it could not carry. */
export function writeEdl(doc: EdlDocument): { text: string; losses: string[] } {
  const t = (frames: number, drop = doc.drop) => formatFrames(frames, doc.rate, drop)
  const losses: string[] = []
  // Most lines are in order: where one ends, the next begins.
  let said = { frames: -1, text: '' }
  const record = (frames: number): string => {
    if (said.frames !== frames) said = { frames, text: t(frames) }
    return said.text
  }
  const lines = [`TITLE: ${oneLine(doc.title)}`, `FCM: ${doc.drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '', ...(doc.head ?? []).map(oneLine)]
  const reels = new Map<string, string>()
  /** A reel without blanks, as wide as its column. */
  const column = (reel: string): string => {
    let text = reels.get(reel)
    if (text === undefined) {
      text = reel.replace(/\s+/g, '_').padEnd(8)
      reels.set(reel, text)
    }
    return text
  }
  const line = (e: EdlEntry, number: string, reel: string, code: string, frames: number, si: number, so: number, ri: number, ro: number): string => {
    const sources = e.sourceDrop ?? doc.drop
    const length = frames ? String(frames).padStart(3, '0') : '   '
    return `${number}  ${column(reel)} ${e.channels.padEnd(5)} ${code.padEnd(4)} ${length} ${t(si, sources)} ${t(so, sources)} ${record(ri)} ${record(ro)}`
  }
  for (const e of doc.entries) {
    const number = String(e.number).padStart(e.digits ?? 3, '0')
    if (e.number > 9999) losses.push(`Event ${e.number}: numbers over 9999 are not read everywhere.`)
    if (/\s/.test(e.reel)) losses.push(`Event ${number}: spaces in reel "${e.reel}" became _.`)
    const sources = e.sourceDrop ?? doc.drop
    for (const c of e.before ?? []) lines.push(oneLine(c))
    if (e.outgoing) lines.push(line(e, number, e.outgoing.reel, 'C', 0, e.outgoing.source, e.outgoing.source, e.recordIn, e.recordIn))
    lines.push(
      line(e, number, e.reel, e.transition.code, e.transition.frames, e.sourceIn, e.sourceOut, e.recordIn, e.recordOut) + (e.tail ? ` ${oneLine(e.tail)}` : ''),
    )
    if (e.speed) {
      const { text, exact } = speedText(e.speed, doc.rate)
      if (!exact) losses.push(`Event ${number}: its speed of ${((e.speed.num / e.speed.den) * 100).toFixed(4)} % became ${text} frames a second.`)
      lines.push(`M2   ${column(e.reel)}      ${text.padEnd(16)} ${t(e.sourceIn, sources)}`)
    }
    if (e.outgoing?.clipName) lines.push(`* FROM CLIP NAME: ${oneLine(e.outgoing.clipName)}`)
    if (e.clipName) lines.push(`* ${e.outgoing ? 'TO' : 'FROM'} CLIP NAME: ${oneLine(e.clipName)}`)
    if (e.sourceFile) lines.push(`* SOURCE FILE: ${oneLine(e.sourceFile)}`)
    for (const c of e.comments) lines.push(oneLine(c))
  }
  lines.push(...(doc.after ?? []).map(oneLine))
  return { text: `${lines.join('\r\n')}\r\n`, losses }
}
