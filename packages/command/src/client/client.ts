/** A small typed client of the API, for the command and for tests. */
import { type Answer, AnswersHeld, type Arg, ProblemAnswer, requestOf, type Route, type RouteName, routes, type Started, type TaskRow } from '@naranja/contract'
import type { z } from 'zod'

/** An answer that says no: the status, the code, and the sentence for people. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly details: string[],
    /** What stands there now, where a change saw something older. */
    readonly now?: unknown,
  ) {
    super(message)
  }
}

/** What is handed over to ask by a route; nothing where it takes nothing. */
// biome-ignore lint/suspicious/noConfusingVoidType: it is void where nothing is taken
type RequestOf<N extends RouteName> = [Arg<(typeof routes)[N]>] extends [void] ? [] : [Arg<(typeof routes)[N]>]

/** What came as text. Of answers of megabytes a response's own `text` and `json` take half as long again. */
export const textOf = async (res: Response): Promise<string> => Buffer.from(await res.arrayBuffer()).toString()

const sending = (method: string, body: unknown): RequestInit => ({
  method,
  ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
})

export class Client {
  private readonly held = new AnswersHeld()

  constructor(
    readonly address: string,
    private readonly key = '',
    /** What a browser that is known shows instead of the key. */
    private readonly cookie = '',
  ) {}

  /** A client that was made known by an address as it is printed, as a browser is. Throws where the address is used up. */
  static async asBrowser(address: string): Promise<Client> {
    const { headers } = await fetch(address, { redirect: 'manual' })
    const [cookie] = headers.getSetCookie()
    if (!cookie) throw new Error(`${address} lets nobody in any more.`)
    return new Client(new URL(address).origin, '', cookie.split(';')[0] ?? '')
  }

  /** The answer to a request as it comes. */
  fetch(path: string, init: RequestInit = {}): Promise<Response> {
    const shown = { ...(this.key ? { 'x-naranja-key': this.key } : {}), ...(this.cookie ? { cookie: this.cookie } : {}) }
    return fetch(this.address + path, { ...init, headers: { ...(init.headers as Record<string, string> | undefined), ...shown } })
  }

  /** Asks by a route of the contract: what it takes, side by side, and what it answers. */
  async ask<N extends RouteName>(name: N, ...[arg]: RequestOf<N>): Promise<Answer<(typeof routes)[N]>> {
    const route: Route = routes[name]
    const { method, url, body } = requestOf(route, arg as never)
    const answer = await this.sent(method, url, body)
    return (route.answer ? (route.answer as z.ZodType).parse(answer) : answer) as Answer<(typeof routes)[N]>
  }

  /** The answer to a request by a route as it comes: a picture, a file, or JSON that is not read. */
  response<N extends RouteName>(name: N, ...[arg]: RequestOf<N>): Promise<Response> {
    const { method, url, body } = requestOf<Route>(routes[name], arg as never)
    return this.fetch(url, sending(method, body))
  }

  /** What a page that stays open has after it asked again: of a long answer comes what has changed. */
  async asPage<N extends RouteName>(name: N, ...[arg]: RequestOf<N>): Promise<Answer<(typeof routes)[N]>> {
    const { url } = requestOf<Route>(routes[name], arg as never)
    const asking = this.held.asking(url)
    const res = await this.fetch(url, { headers: asking.headers })
    if (!res.ok) throw new Error(`${url} answered ${res.status}.`)
    return asking.read(res.status, res.headers.get('etag'), JSON.parse(await textOf(res))) as Answer<(typeof routes)[N]>
  }

  /** The same with what may not fit the contract: the server is to say so. */
  askAnything<N extends RouteName>(name: N, arg: unknown): Promise<Answer<(typeof routes)[N]>> {
    return this.ask(name, ...([arg] as unknown as RequestOf<N>))
  }

  /** Asks at an address that no route has, as strangers do. */
  async call<T extends z.ZodType>(schema: T, method: string, path: string, body?: unknown): Promise<z.infer<T>> {
    return schema.parse(await this.sent(method, path, body)) as z.infer<T>
  }
  private async sent(method: string, path: string, body?: unknown): Promise<unknown> {
    const res = await this.fetch(path, sending(method, body))
    const text = await textOf(res)
    if (!res.ok) {
      const problem = ProblemAnswer.safeParse(JSON.parse(text || '{}'))
      const e = problem.success ? problem.data.error : { code: 'internal', message: `${method} ${path} answered ${res.status}.`, details: [], now: undefined }
      throw new ApiError(res.status, e.code, e.message, e.details, e.now)
    }
    const type = res.headers.get('content-type') ?? ''
    return type.includes('json') ? JSON.parse(text) : text
  }

  /** Waits until a project has no task of a kind under way. */
  async settled(projectId: string, kind: TaskRow['kind']): Promise<void> {
    for (let pause = 120; ; pause = Math.min(1000, pause * 1.25)) {
      const { tasks } = await this.ask('queue', { projectId })
      if (!tasks.some((t) => t.kind === kind && ['waiting', 'held', 'running'].includes(t.state))) return
      await new Promise((r) => setTimeout(r, pause))
    }
  }

  /** Waits until every task of a batch has ended, telling how far it is; returns the tasks. */
  async finish(started: Started, tell?: (share: number) => void): Promise<TaskRow[]> {
    if (started.taskIds.length === 0) return []
    // Short work is seen ending at once, and so is long work that is nearly through; else it is not asked after more often than once a second.
    for (let pause = 120; ; pause = Math.min(1000, pause * 1.25)) {
      const batch = await this.ask('batch', started.batchId)
      if (!batch.active) return this.ask('batchTasks', started.batchId)
      tell?.(batch.share)
      if (batch.left !== null && batch.left < 2) pause = 120
      await new Promise((r) => setTimeout(r, pause))
    }
  }
}
