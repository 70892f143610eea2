/** JSON as text with the lines on which its objects stand, so that a problem can be told with its place. */

export type JsonValue = null | boolean | number | string | JsonValue[] | JsonObject
export interface JsonObject {
  [key: string]: JsonValue
}

/** Lines of an object, counted from 1, both included. */
export interface Lines {
  readonly first: number
  readonly last: number
}

export interface JsonRead {
  /** What could be read: where the text breaks off, or goes wrong, all that stands before. */
  readonly value: JsonValue
  linesOf(object: object): Lines
  readonly fault: { readonly text: string; readonly line: number } | null
}

/** Objects and arrays within one another; more is no timeline but a trap. */
export const deepest = 400

class Fault extends Error {
  constructor(
    readonly line: number,
    message: string,
  ) {
    super(message)
  }
}

/**
 * Reads JSON (RFC 8259) and, as some writers have them, NaN and Infinity for numbers. Objects have no prototype, so that no
 * key is special. Never throws: a fault is told with its line, beside what was read before it.
 */
export function readJson(text: string): JsonRead {
  const lines = new WeakMap<object, Lines>()
  let at = 0
  let line = 1
  let fault: JsonRead['fault'] = null
  const number = /-?(?:Infinity|NaN|(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?)/y
  const skip = (): void => {
    for (; ; at++) {
      const c = text.charCodeAt(at)
      if (c === 10) line++
      else if (c !== 32 && c !== 13 && c !== 9 && c !== 0xfeff) return
    }
  }
  const expect = (sign: string): void => {
    if (text[at] !== sign)
      throw new Fault(line, at >= text.length ? `the file ends where "${sign}" should stand` : `"${text[at]}" stands where "${sign}" should`)
    at++
  }
  const string = (): string => {
    const from = at
    expect('"')
    for (; ; at++) {
      const c = text.charCodeAt(at)
      if (c === 34) break
      if (c === 92) at++
      else if (c < 32 || Number.isNaN(c)) throw new Fault(line, at >= text.length ? 'the file ends within a text' : 'a text is not closed')
    }
    at++
    try {
      return JSON.parse(text.slice(from, at)) as string
    } catch {
      throw new Fault(line, 'a text has an escape that is none')
    }
  }
  const word = (name: string, value: JsonValue): JsonValue => {
    if (!text.startsWith(name, at)) throw new Fault(line, `"${text.slice(at, at + 10)}" is no value`)
    at += name.length
    return value
  }
  const read = (depth: number): JsonValue => {
    if (depth > deepest) throw new Fault(line, `more than ${deepest} objects stand within one another`)
    skip()
    const c = text[at]
    if (c === '"') return string()
    if (c === '{' || c === '[') {
      const first = line
      const close = c === '{' ? '}' : ']'
      const list: JsonValue[] = []
      const object = Object.create(null) as JsonObject
      at++
      skip()
      try {
        if (text[at] === close) at++
        else
          while (fault === null) {
            if (c === '{') {
              skip()
              const key = string()
              skip()
              expect(':')
              object[key] = read(depth + 1)
            } else list.push(read(depth + 1))
            if (fault !== null) break
            skip()
            if (text[at] === ',') {
              at++
              continue
            }
            expect(close)
            break
          }
      } catch (error) {
        if (!(error instanceof Fault)) throw error
        fault = { text: error.message, line: error.line }
      }
      const value = c === '{' ? object : list
      lines.set(value, { first, last: line })
      return value
    }
    if (c === 't') return word('true', true)
    if (c === 'f') return word('false', false)
    if (c === 'n') return word('null', null)
    number.lastIndex = at
    const digits = number.exec(text)?.[0]
    if (!digits) throw new Fault(line, at >= text.length ? 'the file ends too early' : `"${text.slice(at, at + 10)}" is no value`)
    at += digits.length
    return Number(digits)
  }
  let value: JsonValue = null
  try {
    value = read(1)
    skip()
    if (fault === null && at < text.length) throw new Fault(line, 'something stands behind the end')
  } catch (error) {
    if (!(error instanceof Fault)) throw error
    fault = { text: error.message, line: error.line }
  }
  return { value, linesOf: (o) => lines.get(o) ?? { first: 0, last: 0 }, fault }
}
