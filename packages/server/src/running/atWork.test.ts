/** Tasks of a worker stand still while they or the whole queue are held, whatever is held and let go in what order. */
import type { Worker } from 'bullmq'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { AtWork, lost } from './atWork.ts'

const tasks = ['a', 'b']
const moves = fc.array(
  fc.oneof(
    fc.record({ kind: fc.constantFrom('begin', 'end', 'hold', 'release', 'start'), task: fc.constantFrom(...tasks) }),
    fc.record({ kind: fc.constantFrom('pause', 'resume'), task: fc.constant('') }),
  ),
  { maxLength: 40 },
)

it('is what was said last of each, and a worker more takes turns for each that is held', () => {
  fc.assert(
    fc.property(moves, fc.boolean(), (list, pausedAtFirst) => {
      let open = 0
      const taking = () => {
        open++
        return { close: async () => void open-- } as unknown as Worker<object>
      }
      const atWork = new AtWork(taking, pausedAtFirst)
      let paused = pausedAtFirst
      const running = new Map<string, { held: boolean; children: { still: boolean }[] }>()
      for (const { kind, task } of list) {
        const own = running.get(task)
        if (kind === 'begin' && !own) {
          atWork.begin(task, `turn of ${task}`)
          running.set(task, { held: false, children: [] })
        } else if (kind === 'end' && own) {
          atWork.end(task)
          running.delete(task)
        } else if (kind === 'hold') {
          atWork.hold(task)
          if (own) own.held = true
        } else if (kind === 'release') {
          atWork.release(task)
          if (own) own.held = false
        } else if (kind === 'start' && own) {
          const child = { still: false }
          own.children.push(child)
          atWork.started(task, {
            kill: (signal) => {
              child.still = signal === 'SIGSTOP'
              return true
            },
          })
        } else if (kind === 'pause' || kind === 'resume') {
          paused = kind === 'pause'
          atWork.pause(paused)
        }
        for (const [id, r] of running) {
          expect(atWork.has(id)).toBe(true)
          for (const c of r.children) expect(c.still).toBe(paused || r.held)
        }
        expect(atWork.size).toBe(running.size)
        expect(open).toBe([...running.values()].filter((r) => r.held).length)
      }
    }),
  )
})

it('ends the tasks whose turns the queue has given to another, and no others', () => {
  const atWork = new AtWork(() => ({}) as Worker<object>, false)
  const [a, b] = [atWork.begin('a', '1'), atWork.begin('b', '2')]
  atWork.loseTurns(['2', '3'])
  expect([a.aborted, b.aborted, b.reason]).toEqual([false, true, lost])
  atWork.cancel('a')
  expect([a.aborted, a.reason === lost]).toEqual([true, false])
})
