/** One event line of an edit decision list, taken apart at its blanks; linear in its length. */

/** The words of an event line, before anybody has judged them. */
export interface EventLine {
  readonly number: string
  /** May hold blanks; empty where the column is. */
  readonly reel: string
  readonly channels: string
  /** C, D, W001, K, KB, KO; a blank between K and its letter is left out. */
  readonly code: string
  readonly frames: number | null
  /** Source in and out, record in and out, as written. */
  readonly times: readonly [string, string, string, string]
  /** What stands behind the times. */
  readonly tail: string
}

const timecodeForm = /^\d{1,2}[:;.]\d{2}[:;.]\d{2}[:;.,]\d{2,3}$/
const numberForm = /^\d{1,8}[A-Za-z]?$/
const channelForm = /^[A-Za-z][A-Za-z0-9/]*$/
const codeForm = /^[A-Za-z]{1,2}\d{0,3}$/
const framesForm = /^\(?(\d{1,4})\)?$/

/** Lines longer than this are no events: reels have at most 128 characters. */
export const longestLine = 2000

const isDigit = (c: number): boolean => c >= 48 && c <= 57

function fourTimes(words: readonly string[], at: number): boolean {
  for (let i = at; i < at + 4; i++) if (!isDigit((words[i] as string).charCodeAt(0)) || !timecodeForm.test(words[i] as string)) return false
  return true
}

/** Null where the line is no event: it has no number in front, or no four times one after another. */
export function eventLine(line: string): EventLine | null {
  if (line.length > longestLine || !/^\s*\d/.test(line)) return null
  const words = line.trim().split(/\s+/)
  const number = words[0] ?? ''
  if (!isDigit(number.charCodeAt(0)) || !numberForm.test(number)) return null
  let at = 3
  while (at + 3 < words.length && !fourTimes(words, at)) at++
  if (at + 3 >= words.length) return null
  const front = words.slice(1, at)
  // From the right: perhaps a fade flag, perhaps a length, the transition, the channels; what is left is the reel.
  if (front.at(-1) === 'F' && front.length > 3) front.pop()
  const length = framesForm.exec(front.at(-1) ?? '')
  if (length) front.pop()
  let code = front.pop() ?? ''
  if (/^[BO]$/i.test(code) && /^K$/i.test(front.at(-1) ?? '')) code = `${front.pop()}${code}`
  const channels = front.pop() ?? ''
  if (!codeForm.test(code) || !channelForm.test(channels)) return null
  return {
    number,
    reel: front.length === 1 ? (front[0] as string) : front.join(' '),
    channels,
    code,
    frames: length ? Number(length[1]) : null,
    times: [words[at] as string, words[at + 1] as string, words[at + 2] as string, words[at + 3] as string],
    tail: words.length > at + 4 ? words.slice(at + 4).join(' ') : '',
  }
}

/** Tracks of a channel code: V, V2, A, A2, AA (two of sound), B (picture and sound), and combinations with a slash. */
export function tracksOf(code: string): string[] | null {
  if (code === 'V') return ['V1']
  const out: string[] = []
  for (const part of code.toUpperCase().split('/')) {
    if (part === 'NONE') continue
    if (part === 'B' || part === 'AV' || part === 'VA') out.push('V1', 'A1')
    else if (part === 'AA') out.push('A1', 'A2')
    else if (/^(?:[VA]\d{0,2})+$/.test(part)) for (const m of part.matchAll(/([VA])(\d{0,2})/g)) out.push(`${m[1]}${Number(m[2] || 1)}`)
    else return null
  }
  return [...new Set(out)]
}

/** Whether lines are those of an edit decision list: one of the first is an event, a title or a count of frames. */
export const looksLikeEdl = (lines: readonly string[]): boolean =>
  lines.slice(0, 5000).some((l) => eventLine(l) !== null || /^\s*(TITLE|FCM)\s*:/i.test(l.slice(0, 200)))
