/** What the server pushes: the pages that show it are fetched anew; no screen polls. */
import { addressOf, LiveEvent, type Queue, routes, tags, type Topic } from '@naranja/contract'
import type { ThunkDispatch, UnknownAction } from '@reduxjs/toolkit'
import { api } from './endpoints.ts'

type State = Parameters<typeof api.util.selectInvalidatedBy>[0]
/** The store in which answers are kept. */
interface Answers {
  dispatch: ThunkDispatch<State, unknown, UnknownAction>
  getState(): State
}

/** Listens until the page goes; `said` is given what happened by itself. Changes that come close together are taken together. */
export function listen(store: Answers, said: (text: string) => void): void {
  const waiting = new Set<Topic>()
  let timer: ReturnType<typeof setTimeout> | null = null
  const flush = () => {
    timer = null
    store.dispatch(api.util.invalidateTags([...waiting]))
    waiting.clear()
  }
  const source = new EventSource(addressOf(routes.events, undefined))
  let lost = false
  source.onerror = () => {
    lost = true
  }
  source.onopen = () => {
    // What was told meanwhile nobody has heard: it may have been anything.
    if (lost) store.dispatch(api.util.invalidateTags([...tags]))
    lost = false
  }
  source.onmessage = (message) => {
    const event = LiveEvent.parse(JSON.parse(message.data))
    if (event.type === 'changed') {
      for (const t of event.topics) waiting.add(t)
      if (timer === null) timer = setTimeout(flush, 120)
      return
    }
    if (event.type === 'said') {
      said(event.text)
      return
    }
    const apply = (q: Queue) => {
      const task = q.tasks.find((t) => t.id === event.taskId)
      if (!task) return
      const before = task.total ? task.done / task.total : 0
      Object.assign(task, { done: event.done, total: event.total, fps: event.fps, speed: event.speed, left: event.left })
      const batch = q.batches.find((b) => b.id === task.batchId)
      if (!batch) return
      batch.share = Math.min(1, batch.share + Math.max(0, (task.total ? task.done / task.total : 0) - before) / batch.tasks)
      const running = q.tasks.filter((t) => t.batchId === batch.id && t.state === 'running')
      batch.fps = running.reduce((n, t) => n + t.fps, 0)
      batch.speed = running.reduce((n, t) => n + t.speed, 0)
    }
    const state = store.getState()
    for (const { endpointName, originalArgs } of api.util.selectInvalidatedBy(state, ['tasks']))
      if (endpointName === 'queue') store.dispatch(api.util.updateQueryData('queue', originalArgs as { projectId?: string }, apply))
  }
}
