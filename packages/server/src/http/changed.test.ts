import { AnswersHeld, byRows } from '@naranja/contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { Json } from '../platform/index.ts'
import { AnswersSent } from './changed.ts'

interface Plan {
  title: string
  events: number[]
  pulls: string[]
}

/** Somebody who asks over and over: what comes each time, and what it is read as. */
function asker(sent: AnswersSent, held: AnswersHeld) {
  return (url: string, answer: Json<unknown>) => {
    const asking = held.asking(url)
    expect(asking.headers['a-im']).toBe(byRows)
    const { tag, text, changed } = sent.answer(url, answer, asking.headers['if-none-match'])
    return { changed, text, read: asking.read(changed ? 226 : 200, tag, JSON.parse(text)) }
  }
}

describe('an answer by the rows that have changed', () => {
  it('is read as what it is, whatever became of its rows and its other fields', () => {
    const rows = fc.array(fc.nat(12), { maxLength: 14 })
    const state = fc.record({ title: fc.string({ maxLength: 3 }), events: rows, pulls: rows.map((r) => r.map((n) => `pull ${n}`)) })
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.constantFrom('/a', '/b'), fc.boolean(), state), { maxLength: 12 }), fc.integer({ min: 1, max: 3 }), (asks, most) => {
        const ask = asker(new AnswersSent(), new AnswersHeld(most))
        // A row that is the same text is the same object, now and then: others may have been written anew.
        const written = new Map<unknown, Json<unknown>>()
        const row = <T>(value: T, anew: boolean): Json<T> => {
          const json = (anew ? undefined : written.get(value)) ?? Json.of<unknown>(value)
          written.set(value, json)
          return json as Json<T>
        }
        for (const [url, anew, { title, events, pulls }] of asks) {
          const [list, names] = [Json.list(events.map((e) => row(e, anew))), Json.list(pulls.map((p) => row(p, false)))]
          expect(ask(`${url}/list`, list).read).toEqual(events)
          expect(ask(url, Json.object<Plan>({ title, events: list, pulls: names })).read).toEqual({ title, events, pulls })
        }
      }),
    )
  })
  it('names only what is new, and keeps the objects of what is not', () => {
    const ask = asker(new AnswersSent(), new AnswersHeld())
    const rows = Array.from({ length: 3000 }, (_, i) => Json.of({ event: i }))
    const first = ask('/links', Json.list(rows))
    expect(first.changed).toBe(false)
    const other = Json.of({ event: 7, decided: true })
    const second = ask('/links', Json.list(rows.with(7, other)))
    expect(second.text).toBe('{"list":[[0,7],{"rows":[{"event":7,"decided":true}]},[8,3000]]}')
    const [before, now] = [first.read as object[], second.read as object[]]
    expect(now.filter((r, i) => r !== before[i])).toEqual([{ event: 7, decided: true }])
    // One that is gone moves the others up, and none of them comes again.
    expect(ask('/links', Json.list([...rows.slice(0, 7), ...rows.slice(8)])).text).toBe('{"list":[[0,7],{"rows":[]},[8,3000]]}'.replace('{"rows":[]},', ''))
  })
  it('comes whole to whoever has none, or one of another address, of another start, or of long ago', () => {
    const sent = new AnswersSent()
    const list = Json.list([Json.of(1), Json.of(2)])
    const { tag } = sent.answer('/a', list, undefined)
    expect(sent.answer('/a', list, tag)).toEqual({ tag, text: '{"list":[[0,2]]}', changed: true })
    for (const [url, had] of [
      ['/a', '"never heard of"'],
      ['/b', tag],
    ] as const)
      expect(sent.answer(url, list, had)).toMatchObject({ text: '[1,2]', changed: false })
    expect(new AnswersSent().answer('/a', list, tag)).toMatchObject({ text: '[1,2]', changed: false })
    const few = new AnswersSent(4)
    const old = few.answer('/a', list, undefined).tag
    few.answer('/b', Json.list([Json.of(3), Json.of(4)]), undefined)
    expect(few.answer('/a', list, old)).toMatchObject({ text: '[1,2]', changed: false })
  })
})
