/** The rate at which a camera shot, where it is another than that at which the clip plays. */
import { parseRate, type Rate } from '../time/index.ts'

/** What cameras call it, in tags and side files: `captureFps`, `capture.fps`, `Capture frame rate`, `sensor fps`. */
const called = String.raw`(?:captur(?:e|ed|ing)|shoot(?:ing)?|sensor|record(?:ed|ing)?)[\s._-]*(?:fps|frame[\s._-]*rate)`

/** `59.94p`, `100.000000 fps`, `120000/1001` → a rate; null for anything else. */
const rateIn = (value: string): Rate | null => parseRate(value.trim().replace(/\s*(fps|p|i)$/i, ''))

/** The capture rate among a file's tags; null where none tells it. */
export function capturedByTags(tags: Iterable<readonly [string, string]>): Rate | null {
  const name = new RegExp(`(^|[._\\s-])${called}$`, 'i')
  for (const [key, value] of tags) if (name.test(key)) return rateIn(value)
  return null
}

/** The capture rate in the text of a side file: an attribute, an element, or a line of a name and a value. */
export function capturedInText(text: string): Rate | null {
  const found = new RegExp(String.raw`\b${called}\b["']?\s*[=:>,;\t]\s*["']?(\d[\d./]*)`, 'i').exec(text)
  return found ? rateIn(found[1] ?? '') : null
}
