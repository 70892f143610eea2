/** Everything that comes from the server: an endpoint for every route of the contract, kept fresh by what the server pushes. */
import {
  AnswersHeld,
  type Answer,
  type Arg,
  type ClipCondition,
  type ClipPage,
  type ClipSort,
  type DescribeEdit,
  type ProblemAnswer,
  requestOf,
  type Route,
  type RouteName,
  routes,
  type Tag,
  tags,
} from '@naranja/contract'
import {
  type BaseQueryFn,
  createApi,
  type EndpointBuilder,
  type FetchArgs,
  type FetchBaseQueryError,
  fetchBaseQuery,
  type InfiniteQueryDefinition,
  type MutationDefinition,
  type QueryDefinition,
} from '@reduxjs/toolkit/query/react'
import type { SerializedError } from '@reduxjs/toolkit'

export interface ClipFilter {
  readonly projectId: string
  readonly sort: ClipSort
  readonly descending?: boolean
  readonly search?: string
  readonly where?: readonly ClipCondition[]
}

interface How {
  /** It reaches the server after what was done before it on this page, and not beside it. */
  readonly inOrder?: boolean
  /** Of its answer comes what has changed. */
  readonly byRows?: boolean
}
type Send = BaseQueryFn<string | FetchArgs, unknown, FetchBaseQueryError, How>
const sendPlainly = fetchBaseQuery({ baseUrl: '' })
const held = new AnswersHeld()

const send: Send = async (args, asked, how) => {
  if (!how?.byRows || typeof args === 'string') return sendPlainly(args, asked, {})
  const asking = held.asking(args.url)
  const result = await sendPlainly({ ...args, headers: asking.headers }, asked, {})
  const response = result.meta?.response
  return result.error || !response ? result : { ...result, data: asking.read(response.status, response.headers.get('etag'), result.data) }
}
/** What a person did last of what goes in order. */
let before: Promise<unknown> = Promise.resolve()

const sendInOrder: Send = (args, asked, how) => {
  if (!how?.inOrder) return send(args, asked, how)
  const mine = before.then(() => send(args, asked, how))
  before = mine.catch(() => undefined)
  return mine
}

/** What was changed stands on the page at once; a refusal takes it back. */
const unlessRefused = (patches: readonly { undo(): void }[], answer: Promise<unknown>): Promise<unknown> =>
  answer.catch(() => {
    for (const p of patches) p.undo()
  })

type Table = typeof routes
/** Routes whose answers are shown for as long as they hold. The list of clips comes page by page. */
type Asking = { [N in RouteName]: Table[N] extends { answer: object } & ({ method: 'GET' } | { asks: true }) ? N : never }[RouteName]
type QueryRoute = Exclude<Asking, 'clips'>
type Changing = { [N in RouteName]: Table[N] extends { answer: object } ? (N extends Asking ? never : N) : never }[RouteName]
type Endpoints = { [N in QueryRoute]: QueryDefinition<Arg<Table[N]>, Send, Tag, Answer<Table[N]>, 'api'> } & {
  [N in Changing]: MutationDefinition<Arg<Table[N]>, Send, Tag, Answer<Table[N]>, 'api'>
} & { clips: InfiniteQueryDefinition<ClipFilter, string, Send, Tag, ClipPage, 'api'> }

/** An endpoint for each route that answers in JSON. */
function endpointsOf(b: EndpointBuilder<Send, Tag, 'api'>): Endpoints {
  const made: Record<string, unknown> = {}
  for (const [name, route] of Object.entries(routes) as [RouteName, Route][]) {
    if (!route.answer || name === 'clips') continue
    const query = (arg: never): FetchArgs => requestOf(route, arg)
    const { follows, moves, inOrder, keep, byRows } = route
    made[name] =
      route.method === 'GET' || route.asks
        ? b.query({
            query,
            ...(follows ? { providesTags: follows } : {}),
            ...(keep === undefined ? {} : { keepUnusedDataFor: keep }),
            ...(byRows ? { extraOptions: { byRows } } : {}),
          })
        : b.mutation({ query, ...(moves ? { invalidatesTags: moves } : {}), ...(inOrder ? { extraOptions: { inOrder } } : {}) })
  }
  const clips = b.infiniteQuery<ClipPage, ClipFilter, string>({
    infiniteQueryOptions: { initialPageParam: '', getNextPageParam: (last) => last.next ?? undefined },
    query: ({ queryArg: { projectId, sort, descending, search, where }, pageParam }) =>
      requestOf(routes.clips, {
        ...{ projectId, sort, limit: 500 },
        descending: descending ? 'true' : undefined,
        search: search || undefined,
        where: where?.length ? JSON.stringify(where) : undefined,
        after: pageParam || undefined,
      }),
    providesTags: routes.clips.follows,
  })
  return { ...made, clips } as Endpoints
}

export const api = createApi({ reducerPath: 'api', baseQuery: sendInOrder, tagTypes: tags, keepUnusedDataFor: 30, endpoints: endpointsOf })

api.enhanceEndpoints({
  endpoints: {
    setViewing: {
      async onQueryStarted({ projectId, viewing }, { dispatch, queryFulfilled }) {
        const patch = dispatch(
          api.util.updateQueryData('viewing', projectId, (d) => {
            d.viewing = viewing
          }),
        )
        await unlessRefused([patch], queryFulfilled)
      },
    },
    describe: {
      // What was typed stands there at once; a refusal takes it back.
      async onQueryStarted({ edits }, { dispatch, getState, queryFulfilled }) {
        const byClip = new Map<string, DescribeEdit[]>()
        for (const e of edits) byClip.set(e.clipId, [...(byClip.get(e.clipId) ?? []), e])
        const lists = Object.values(
          (getState() as { api: { queries: Record<string, { endpointName?: string; originalArgs?: unknown } | undefined> } }).api.queries,
        )
        const patches = lists.flatMap((q) =>
          q?.endpointName !== 'clips'
            ? []
            : [
                dispatch(
                  api.util.updateQueryData('clips', q.originalArgs as ClipFilter, (d) => {
                    for (const page of d.pages) for (const row of page.rows) for (const e of byClip.get(row.id) ?? []) row[e.field] = e.value?.trim() || null
                  }),
                ),
              ],
        )
        await unlessRefused(patches, queryFulfilled)
      },
    },
    keepListViews: {
      async onQueryStarted({ projectId, ...views }, { dispatch, queryFulfilled }) {
        await unlessRefused([dispatch(api.util.updateQueryData('listViews', projectId, () => ({ ...views, version: views.version + 1 })))], queryFulfilled)
      },
    },
    setProjectDecode: {
      async onQueryStarted({ projectId, ...decode }, { dispatch, queryFulfilled }) {
        await unlessRefused(
          [dispatch(api.util.updateQueryData('projectDecode', projectId, () => ({ ...decode, version: decode.version + 1 })))],
          queryFulfilled,
        )
      },
    },
    setDecode: {
      async onQueryStarted({ projectId, clipIds, settings }, { dispatch, getState, queryFulfilled }) {
        const common = api.endpoints.projectDecode.select(projectId)(getState() as never).data?.settings
        const patches = clipIds.map((id) =>
          dispatch(
            api.util.updateQueryData('clip', id, (c) => {
              const now = c.decode ?? common
              if (settings === null) c.decode = null
              else if (now) c.decode = { ...now, ...settings }
            }),
          ),
        )
        await unlessRefused(patches, queryFulfilled)
      },
    },
  },
})

/** The sentence of a failed request, and its details. */
export function refusal(error: FetchBaseQueryError | SerializedError | undefined): { message: string; details: string[]; code: string; now?: unknown } | null {
  if (!error) return null
  const answer = 'data' in error ? (error.data as Partial<ProblemAnswer> | undefined) : undefined
  if (answer?.error) return answer.error
  if ('status' in error && error.status === 'FETCH_ERROR')
    return { code: 'offline', message: 'Naranja does not answer. Is it still running? Start it again with ./naranja.', details: [] }
  return { code: 'unknown', message: 'error' in error ? String(error.error) : 'Something went wrong.', details: [] }
}
