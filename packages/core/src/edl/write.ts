/** Writes a picture-and-sound cut as an edit decision list in the CMX 3600 conventions. */
import { formatFrames, type Rate } from '../time/index.ts'

/** One written event; all positions in frames of the list's rate, half-open. */
export interface EdlEntry {
  readonly number: number
  readonly reel: string
  /** Channel code: V, A, A2, AA/V. */
  readonly channels: string
  readonly transition: { readonly code: string; readonly frames: number }
  readonly sourceIn: number
  readonly sourceOut: number
  readonly recordIn: number
  readonly recordOut: number
  readonly clipName: string | null
  readonly sourceFile: string | null
  /** What the outgoing side is, for the first line of a two-line transition. */
  readonly outgoing: { readonly reel: string; readonly source: number; readonly clipName: string | null } | null
  readonly comments: readonly string[]
}

export interface EdlDocument {
  readonly title: string
  readonly rate: Rate
  readonly drop: boolean
  readonly entries: readonly EdlEntry[]
}

/** The list as text with CR LF line ends, and what it could not carry. */
export function writeEdl(doc: EdlDocument): { text: string; losses: string[] } {
  const t = (frames: number) => formatFrames(frames, doc.rate, doc.drop)
  const losses: string[] = []
  const lines = [`TITLE: ${doc.title}`, `FCM: ${doc.drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`, '']
  for (const e of doc.entries) {
    const number = String(e.number).padStart(3, '0')
    if (e.number > 9999) losses.push(`Event ${e.number}: numbers over 9999 are not read everywhere.`)
    if (/\s/.test(e.reel)) losses.push(`Event ${number}: spaces in reel "${e.reel}" became _.`)
    const line = (reel: string, code: string, frames: number, si: number, so: number, ri: number, ro: number) =>
      `${number}  ${reel.replace(/\s+/g, '_').padEnd(8)} ${e.channels.padEnd(5)} ${code.padEnd(4)} ${frames ? String(frames).padStart(3, '0') : '   '} ${t(si)} ${t(so)} ${t(ri)} ${t(ro)}`
    if (e.outgoing) lines.push(line(e.outgoing.reel, 'C', 0, e.outgoing.source, e.outgoing.source, e.recordIn, e.recordIn))
    lines.push(line(e.reel, e.transition.code, e.transition.frames, e.sourceIn, e.sourceOut, e.recordIn, e.recordOut))
    if (e.outgoing?.clipName) lines.push(`* FROM CLIP NAME: ${e.outgoing.clipName}`)
    if (e.clipName) lines.push(`* ${e.outgoing ? 'TO' : 'FROM'} CLIP NAME: ${e.clipName}`)
    if (e.sourceFile) lines.push(`* SOURCE FILE: ${e.sourceFile}`)
    lines.push(...e.comments)
  }
  return { text: `${lines.join('\r\n')}\r\n`, losses }
}
