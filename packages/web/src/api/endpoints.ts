/** Everything that comes from the server: typed by the contract, kept fresh by what the server pushes. */
import type {
  Account,
  ArrivalRule,
  BackupRow,
  ChangeRow,
  ClipCondition,
  ClipSort,
  ClipValues,
  DecodeAsk,
  DerivationAsk,
  DescribeEdit,
  ListViews,
  TableAnswer,
  TableAsk,
  KnownPlace,
  ReaderAction,
  RollRow,
  RuleApply,
  RuleAsk,
  RuleRow,
  Changed,
  UndoAsk,
  ClipDetail,
  ClipPage,
  CopyAsk,
  CopyEstimate,
  CopyRow,
  CutDetail,
  CutAsk,
  CutChanges,
  CutImported,
  CutPreview,
  ListPreview,
  MatchRule,
  MatchRules,
  MeasuredCut,
  ReelTable,
  RulesPreview,
  Sightings,
  CutRow,
  FinishingAsk,
  FinishingRule,
  FolderListing,
  LaneClip,
  LightAsk,
  Likeness,
  LinkRow,
  LinkSeen,
  LiveEvent,
  LookForAsk,
  LookRow,
  Pixel,
  Scopes,
  MasterRow,
  OneDisk,
  OneDiskAsk,
  Place,
  PlanAnswer,
  Playlist,
  Priority,
  ProblemAnswer,
  ProjectDecode,
  ProjectEdit,
  ProjectRow,
  PullRow,
  Queue,
  CropAsk,
  DeleteAsk,
  DeletePlan,
  EditPicturesAsk,
  Space,
  Warnings,
  WorkingFiles,
  LookAsk,
  Outcome,
  PairAsk,
  PairResult,
  AsideAsk,
  TrialAsk,
  TrialResult,
  CarryAsk,
  CarryPlan,
  LogAsk,
  LogFiles,
  LogLayouts,
  RenameAsk,
  RenameRow,
  ArrivalEdit,
  ArrivalRow,
  NewArrivals,
  SpecDraft,
  SpecRow,
  SpecVersion,
  Started,
  Summary,
  FirstCopyAsk,
  FirstPath,
  Intakes,
  RollAsk,
  TakeIn,
  UnsafeFolder,
  TargetFolder,
  TargetAsk,
  TargetLook,
  Targets,
  TypedPlace,
  Viewing,
  Volume,
} from '@naranja/contract'
import { Topic } from '@naranja/contract'
import { type BaseQueryFn, createApi, type FetchArgs, type FetchBaseQueryError, fetchBaseQuery } from '@reduxjs/toolkit/query/react'
import type { SerializedError } from '@reduxjs/toolkit'

/** What the server tells of, and what only this page asks for anew. */
export const tags = [...Topic.options, 'changes', 'working'] as const

export interface ClipFilter {
  readonly projectId: string
  readonly sort: ClipSort
  readonly descending?: boolean
  readonly search?: string
  readonly where?: readonly ClipCondition[]
}

const send: BaseQueryFn<string | FetchArgs, unknown, FetchBaseQueryError, Order> = fetchBaseQuery({ baseUrl: '/api' })

interface Order {
  /** It reaches the server after what was done before it on this page, and not beside it. */
  readonly inOrder?: boolean
}
const inOrder = { extraOptions: { inOrder: true } }
/** What a person did last of what goes in order. */
let before: Promise<unknown> = Promise.resolve()

const sendInOrder: typeof send = (args, asked, order) => {
  if (!order?.inOrder) return send(args, asked, order)
  const mine = before.then(() => send(args, asked, order))
  before = mine.catch(() => undefined)
  return mine
}

/** What was changed stands on the page at once; a refusal takes it back. */
const unlessRefused = (patches: readonly { undo(): void }[], answer: Promise<unknown>): Promise<unknown> =>
  answer.catch(() => {
    for (const p of patches) p.undo()
  })

export const api = createApi({
  reducerPath: 'api',
  baseQuery: sendInOrder,
  tagTypes: tags,
  keepUnusedDataFor: 30,
  endpoints: (b) => ({
    /** Those that concern a project. */
    volumes: b.query<Volume[], string>({ query: (projectId) => `/volumes?projectId=${projectId}`, providesTags: ['volumes', 'clips', 'targets'] }),
    targets: b.query<Targets, string>({ query: (projectId) => `/projects/${projectId}/targets`, providesTags: ['targets', 'volumes'] }),
    targetLook: b.query<TargetLook, TargetAsk>({
      query: ({ volumeId, folder, purpose }) => `/target?volumeId=${volumeId}&folder=${encodeURIComponent(folder)}${purpose ? `&purpose=${purpose}` : ''}`,
      providesTags: ['volumes', 'clips'],
    }),
    typedPlace: b.mutation<TypedPlace, { path: string }>({ query: (body) => ({ url: '/places/typed', method: 'POST', body }), invalidatesTags: ['volumes'] }),
    addFolder: b.mutation<Place, Place & { name: string }>({
      query: ({ volumeId, ...body }) => ({ url: `/volumes/${volumeId}/folder`, method: 'POST', body }),
      invalidatesTags: ['volumes'],
    }),
    setRoll: b.mutation<Changed, { projectId: string } & RollAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/roll`, method: 'POST', body }),
      ...inOrder,
    }),
    folder: b.query<FolderListing, Place>({ query: ({ volumeId, ref }) => `/volumes/${volumeId}/folder?ref=${ref}`, providesTags: ['volumes'] }),
    specs: b.query<SpecRow[], string>({ query: (projectId) => `/specs?projectId=${projectId}`, providesTags: ['specs', 'copies'] }),
    addSpec: b.mutation<{ code: string }, SpecDraft>({ query: (body) => ({ url: '/specs', method: 'POST', body }), invalidatesTags: ['specs'] }),
    changeSpec: b.mutation<{ version: number }, { code: string; version: number; spec: SpecDraft }>({
      query: ({ code, ...body }) => ({ url: `/specs/${code}`, method: 'PUT', body }),
      ...inOrder,
      invalidatesTags: ['specs'],
    }),
    removeSpec: b.mutation<unknown, string>({ query: (code) => ({ url: `/specs/${code}`, method: 'DELETE' }), invalidatesTags: ['specs'] }),
    restoreSpec: b.mutation<unknown, string>({ query: (code) => ({ url: `/specs/${code}/restore`, method: 'POST', body: {} }), invalidatesTags: ['specs'] }),
    setDefaultSpec: b.mutation<unknown, { code: string; seen: string | undefined }>({
      query: ({ code, ...body }) => ({ url: `/specs/${code}/default`, method: 'POST', body }),
      invalidatesTags: ['specs'],
    }),
    specVersions: b.query<SpecVersion[], string>({ query: (code) => `/specs/${code}/versions`, providesTags: ['specs'] }),
    working: b.query<WorkingFiles, void>({ query: () => '/working', providesTags: ['working'] }),
    clearWorking: b.mutation<Changed, void>({ query: () => ({ url: '/working/clear', method: 'POST', body: {} }), invalidatesTags: ['working'] }),
    warnings: b.query<Warnings, void>({ query: () => '/warnings', providesTags: ['tasks'] }),
    space: b.query<Space, string>({ query: (id) => `/projects/${id}/space`, providesTags: ['clips', 'copies', 'pulls', 'masters', 'volumes', 'links'] }),
    deletion: b.query<DeletePlan, { projectId: string } & DeleteAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/copies/deletion`, method: 'POST', body }),
      providesTags: ['copies', 'links', 'volumes'],
    }),
    deleteCopies: b.mutation<Changed, { projectId: string } & DeleteAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/copies/delete`, method: 'POST', body }),
      invalidatesTags: ['copies', 'clips', 'links'],
    }),
    outcome: b.query<Outcome, { projectId: string; spec: SpecDraft }>({
      query: ({ projectId, spec }) => ({ url: `/projects/${projectId}/specs/outcome`, method: 'POST', body: { spec } }),
      providesTags: ['clips'],
    }),
    setFinishing: b.mutation<Changed, { projectId: string } & FinishingAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/finishing`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'copies', 'links', 'changes'],
    }),
    finishingRule: b.query<FinishingRule, string>({ query: (id) => `/projects/${id}/finishing-rule`, providesTags: ['projects', 'links'] }),
    setFinishingRule: b.mutation<Changed, { projectId: string } & FinishingRule>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/finishing-rule`, method: 'PUT', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'copies', 'links', 'changes', 'projects'],
    }),
    setCrop: b.mutation<Changed, { projectId: string } & CropAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/crop`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'copies', 'changes'],
    }),
    setClipLook: b.mutation<Changed, { projectId: string } & LookAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/clip-look`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'copies', 'changes'],
    }),
    projects: b.query<ProjectRow[], void>({ query: () => '/projects', providesTags: ['projects'] }),
    project: b.query<ProjectRow, string>({ query: (id) => `/projects/${id}`, providesTags: ['projects'] }),
    createProject: b.mutation<ProjectRow, { name?: string; rate?: string }>({
      query: (body) => ({ url: '/projects', method: 'POST', body }),
      invalidatesTags: ['projects'],
    }),
    editProject: b.mutation<ProjectRow, { id: string } & ProjectEdit>({
      query: ({ id, ...body }) => ({ url: `/projects/${id}`, method: 'PATCH', body }),
      ...inOrder,
      invalidatesTags: ['projects', 'clips', 'links'],
    }),
    summary: b.query<Summary, string>({
      query: (id) => `/projects/${id}/summary`,
      providesTags: ['projects', 'clips', 'copies', 'cuts', 'links', 'masters', 'tasks'],
    }),
    viewing: b.query<{ viewing: Viewing }, string>({ query: (id) => `/projects/${id}/viewing`, providesTags: ['viewing'] }),
    setViewing: b.mutation<{ viewing: Viewing }, { id: string; viewing: Viewing }>({
      query: ({ id, viewing }) => ({ url: `/projects/${id}/viewing`, method: 'PUT', body: { viewing } }),
      ...inOrder,
      async onQueryStarted({ id, viewing }, { dispatch, queryFulfilled }) {
        const patch = dispatch(
          api.util.updateQueryData('viewing', id, (d) => {
            d.viewing = viewing
          }),
        )
        await unlessRefused([patch], queryFulfilled)
      },
    }),
    changes: b.query<ChangeRow[], string>({ query: (id) => `/projects/${id}/changes`, providesTags: ['changes', 'links', 'clips'] }),
    undo: b.mutation<Changed, { projectId: string } & UndoAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/undo`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['links', 'clips', 'cuts', 'projects', 'changes'],
    }),

    clips: b.infiniteQuery<ClipPage, ClipFilter, string>({
      infiniteQueryOptions: { initialPageParam: '', getNextPageParam: (last) => last.next ?? undefined },
      query: ({ queryArg: f, pageParam }) => {
        const q = new URLSearchParams({
          limit: '500',
          sort: f.sort,
          ...(f.descending ? { descending: 'true' } : {}),
          ...(f.search ? { search: f.search } : {}),
          ...(f.where?.length ? { where: JSON.stringify(f.where) } : {}),
          ...(pageParam ? { after: pageParam } : {}),
        })
        return `/projects/${f.projectId}/clips?${q}`
      },
      providesTags: ['clips', 'copies', 'links'],
    }),
    clip: b.query<ClipDetail, string>({ query: (id) => `/clips/${id}`, providesTags: ['clips', 'copies', 'links'] }),
    clipValues: b.query<ClipValues, { projectId: string; field: string }>({
      query: ({ projectId, field }) => `/projects/${projectId}/clips/values?field=${field}`,
      providesTags: ['clips'],
    }),
    describe: b.mutation<Changed, { projectId: string; edits: DescribeEdit[] }>({
      query: ({ projectId, edits }) => ({ url: `/projects/${projectId}/clips`, method: 'PATCH', body: { edits } }),
      invalidatesTags: ['clips', 'links', 'changes'],
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
      ...inOrder,
    }),
    tick: b.mutation<Changed, { projectId: string; ticked: boolean; clipIds: string[] }>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/ticks`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'changes'],
    }),
    previewDerivation: b.query<RuleRow[], { projectId: string } & DerivationAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/derive/preview`, method: 'POST', body }),
      providesTags: ['clips'],
    }),
    applyDerivation: b.mutation<Changed, { projectId: string } & DerivationAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/derive`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'links', 'changes'],
    }),
    previewTable: b.query<TableAnswer, { projectId: string } & TableAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/table/preview`, method: 'POST', body }),
      providesTags: ['clips'],
    }),
    applyTable: b.mutation<Changed, { projectId: string } & TableAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/table`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'links', 'changes'],
    }),
    listViews: b.query<ListViews | null, string>({ query: (id) => `/projects/${id}/views`, providesTags: ['viewing'] }),
    keepListViews: b.mutation<ListViews, { id: string } & ListViews>({
      query: ({ id, ...body }) => ({ url: `/projects/${id}/views`, method: 'PUT', body }),
      ...inOrder,
      async onQueryStarted({ id, ...views }, { dispatch, queryFulfilled }) {
        await unlessRefused([dispatch(api.util.updateQueryData('listViews', id, () => ({ ...views, version: views.version + 1 })))], queryFulfilled)
      },
    }),
    projectDecode: b.query<ProjectDecode, string>({ query: (id) => `/projects/${id}/decode`, providesTags: ['clips'] }),
    setProjectDecode: b.mutation<Changed, { id: string } & ProjectDecode>({
      query: ({ id, ...body }) => ({ url: `/projects/${id}/decode`, method: 'PUT', body }),
      invalidatesTags: ['clips', 'changes'],
      ...inOrder,
      async onQueryStarted({ id, ...decode }, { dispatch, queryFulfilled }) {
        await unlessRefused([dispatch(api.util.updateQueryData('projectDecode', id, () => ({ ...decode, version: decode.version + 1 })))], queryFulfilled)
      },
    }),
    setDecode: b.mutation<Changed, { projectId: string } & DecodeAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/clips/decode`, method: 'PUT', body }),
      invalidatesTags: ['clips', 'changes'],
      ...inOrder,
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
    }),
    pickGrey: b.mutation<{ neutral: [number, number, number] }, { id: string; frame: number; x: number; y: number }>({
      query: ({ id, ...body }) => ({ url: `/clips/${id}/grey`, method: 'POST', body }),
    }),
    markLight: b.mutation<Changed, { projectId: string } & LightAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/light-copies`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'links', 'changes', 'projects'],
    }),
    seeChanges: b.mutation<Changed, string>({
      query: (id) => ({ url: `/projects/${id}/changes-seen`, method: 'POST', body: {} }),
      ...inOrder,
      invalidatesTags: ['clips', 'changes'],
    }),
    lanes: b.query<LaneClip[], string>({ query: (id) => `/projects/${id}/lanes`, providesTags: ['clips'] }),
    firstCopy: b.query<FirstPath, FirstCopyAsk & { projectId: string }>({
      query: ({ projectId, volumeId, ref, spec }) => `/projects/${projectId}/first-copy?volumeId=${volumeId}&ref=${ref}&spec=${encodeURIComponent(spec)}`,
      providesTags: ['volumes', 'specs'],
    }),
    firstBackup: b.query<FirstPath, Place>({ query: ({ volumeId, ref }) => `/first-backup?volumeId=${volumeId}&ref=${ref}`, providesTags: ['volumes'] }),
    oneDisk: b.query<OneDisk, OneDiskAsk>({ query: (q) => `/one-disk?${new URLSearchParams({ ...q })}`, providesTags: ['volumes'] }),
    intakes: b.query<Intakes, string>({ query: (id) => `/projects/${id}/intakes`, providesTags: ['backups'] }),
    keepIntakes: b.mutation<Intakes, { projectId: string } & Intakes>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/intakes`, method: 'PUT', body }),
      ...inOrder,
      invalidatesTags: ['backups'],
    }),
    unsafeFolders: b.query<UnsafeFolder[], string>({ query: (id) => `/projects/${id}/unsafe-folders` }),
    takeIn: b.mutation<Started, { projectId: string } & TakeIn>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/take-in`, method: 'POST', body }),
      invalidatesTags: ['tasks', 'backups', 'volumes'],
    }),
    lookFor: b.mutation<Started, { projectId: string } & LookForAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/look-for`, method: 'POST', body }),
      invalidatesTags: ['tasks'],
    }),
    backups: b.query<BackupRow[], string>({ query: (id) => `/projects/${id}/backups`, providesTags: ['backups', 'volumes'] }),
    rolls: b.query<RollRow[], string>({ query: (id) => `/projects/${id}/rolls`, providesTags: ['clips', 'copies', 'links', 'masters', 'backups', 'volumes'] }),
    verifyBackups: b.mutation<Started, { projectId: string; backupIds: string[] }>({
      query: ({ projectId, backupIds }) => ({ url: `/projects/${projectId}/backups/verify`, method: 'POST', body: { backupIds } }),
      invalidatesTags: ['tasks'],
    }),
    arrivals: b.query<ArrivalRule, string>({ query: (id) => `/projects/${id}/arrivals`, providesTags: ['backups'] }),
    setArrivals: b.mutation<ArrivalRule, { id: string } & ArrivalRule>({
      query: ({ id, ...body }) => ({ url: `/projects/${id}/arrivals`, method: 'PUT', body }),
      ...inOrder,
      invalidatesTags: ['backups'],
    }),
    tellUnsafe: b.mutation<unknown, string>({
      query: (id) => ({ url: `/projects/${id}/told-unsafe`, method: 'POST', body: {} }),
      invalidatesTags: ['projects'],
    }),
    places: b.query<KnownPlace[], void>({ query: () => '/places', providesTags: ['volumes'] }),
    pinPlace: b.mutation<unknown, Place & { pinned: boolean }>({ query: (body) => ({ url: '/places', method: 'POST', body }), invalidatesTags: ['volumes'] }),
    markVolume: b.mutation<unknown, string>({ query: (id) => ({ url: `/volumes/${id}/marker`, method: 'POST', body: {} }), invalidatesTags: ['volumes'] }),
    reader: b.query<{ name: string; inside: boolean }[], void>({ query: () => '/reader', providesTags: ['volumes'] }),
    card: b.mutation<unknown, ReaderAction>({ query: (body) => ({ url: '/reader', method: 'POST', body }), invalidatesTags: ['volumes'] }),
    previewRule: b.query<RuleRow[], { projectId: string } & RuleAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/rules/preview`, method: 'POST', body }),
      providesTags: ['clips'],
    }),
    applyRule: b.mutation<Changed, { projectId: string } & RuleApply>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/rules`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['clips', 'links', 'changes'],
    }),
    removeClips: b.mutation<Changed, { projectId: string; clipIds: string[] }>({
      query: ({ projectId, clipIds }) => ({ url: `/projects/${projectId}/clips/remove`, method: 'POST', body: { clipIds } }),
      ...inOrder,
      invalidatesTags: ['clips', 'links', 'changes'],
    }),
    looks: b.query<LookRow[], string>({ query: (id) => `/projects/${id}/looks`, providesTags: ['viewing'] }),
    addLook: b.mutation<LookRow[], { projectId: string; name: string; base64: string }>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/looks`, method: 'POST', body }),
      invalidatesTags: ['viewing'],
    }),
    forgetLook: b.mutation<unknown, string>({ query: (id) => ({ url: `/looks/${id}`, method: 'DELETE' }), invalidatesTags: ['viewing'] }),
    scopes: b.query<Scopes, { id: string; frame: number; viewing: Viewing; look?: string; shownAs: string; copy?: string }>({
      query: ({ id, frame, viewing, look, copy }) =>
        `/clips/${id}/scopes?frame=${frame}&viewing=${viewing}${look ? `&look=${look}` : ''}${copy ? `&copy=${copy}` : ''}`,
    }),
    pixel: b.query<Pixel, { id: string; frame: number; viewing: Viewing; x: number; y: number; shownAs: string; copy?: string }>({
      query: ({ id, frame, viewing, x, y, copy }) => `/clips/${id}/pixel?frame=${frame}&viewing=${viewing}&x=${x}&y=${y}${copy ? `&copy=${copy}` : ''}`,
    }),
    clipPlaylist: b.query<Playlist, { id: string; viewing: Viewing; look?: string }>({
      query: ({ id, viewing, look }) => `/clips/${id}/playlist?viewing=${viewing}${look ? `&look=${look}` : ''}`,
      providesTags: ['clips', 'copies'],
    }),

    estimate: b.query<CopyEstimate, CopyAsk & { projectId: string }>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/copies/estimate`, method: 'POST', body }),
      providesTags: ['clips', 'copies', 'volumes'],
    }),
    makeCopies: b.mutation<Started, CopyAsk & { projectId: string }>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/copies`, method: 'POST', body }),
      invalidatesTags: ['tasks', 'copies'],
    }),
    copies: b.query<CopyRow[], string>({ query: (id) => `/projects/${id}/copies`, providesTags: ['copies'] }),

    queue: b.query<Queue, string | undefined>({ query: (projectId) => (projectId ? `/queue?projectId=${projectId}` : '/queue'), providesTags: ['tasks'] }),
    arrivalFolders: b.query<ArrivalRow[], string>({ query: (id) => `/projects/${id}/arrival-folders`, providesTags: ['arrivals', 'volumes', 'tasks'] }),
    addArrivals: b.mutation<{ id: string }, { projectId: string } & NewArrivals>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/arrival-folders`, method: 'POST', body }),
      invalidatesTags: ['arrivals'],
    }),
    changeArrivals: b.mutation<Changed, { id: string } & ArrivalEdit>({
      query: ({ id, ...body }) => ({ url: `/arrival-folders/${id}`, method: 'PATCH', body }),
      ...inOrder,
      invalidatesTags: ['arrivals', 'changes'],
    }),
    removeArrivals: b.mutation<Changed, string>({
      query: (id) => ({ url: `/arrival-folders/${id}`, method: 'DELETE' }),
      ...inOrder,
      invalidatesTags: ['arrivals', 'changes'],
    }),
    trial: b.query<TrialResult, string>({ query: (taskId) => `/tasks/${taskId}/trial` }),
    startTrial: b.mutation<Started, { projectId: string } & TrialAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/trial`, method: 'POST', body }),
      invalidatesTags: ['tasks'],
    }),
    carryPlan: b.query<CarryPlan, { projectId: string } & CarryAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/carry/plan`, method: 'POST', body }),
      providesTags: ['copies', 'pulls', 'masters', 'volumes'],
    }),
    carry: b.mutation<Started, { projectId: string } & CarryAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/carry`, method: 'POST', body }),
      invalidatesTags: ['tasks'],
    }),
    logLayouts: b.query<LogLayouts, void>({ query: () => '/log-layouts', providesTags: ['viewing'] }),
    keepLogLayouts: b.mutation<LogLayouts, LogLayouts>({
      query: (body) => ({ url: '/log-layouts', method: 'PUT', body }),
      ...inOrder,
      invalidatesTags: ['viewing'],
    }),
    log: b.query<LogFiles, { projectId: string } & LogAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/log`, method: 'POST', body }),
      providesTags: ['clips'],
    }),
    saveLog: b.mutation<Changed, { projectId: string } & LogAsk & TargetFolder>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/log/save`, method: 'POST', body }),
    }),
    previewRename: b.query<RenameRow[], { projectId: string } & RenameAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/copies/names/preview`, method: 'POST', body }),
      providesTags: ['copies', 'clips'],
    }),
    applyRename: b.mutation<Changed, { projectId: string } & RenameAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/copies/names`, method: 'POST', body }),
      invalidatesTags: ['copies', 'clips', 'links', 'changes'],
    }),
    pairs: b.query<PairResult, string>({ query: (taskId) => `/tasks/${taskId}/pairs` }),
    startPairing: b.mutation<Started, { projectId: string } & Omit<PairAsk, 'only' | 'instead'> & Partial<Pick<PairAsk, 'instead'>>>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/pairs`, method: 'POST', body }),
      invalidatesTags: ['tasks'],
    }),
    putAside: b.mutation<Changed, { projectId: string } & AsideAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/index-files/aside`, method: 'POST', body }),
      invalidatesTags: ['changes'],
    }),
    account: b.query<Account, string>({ query: (id) => `/tasks/${id}/account` }),
    pause: b.mutation<unknown, boolean>({ query: (paused) => ({ url: '/queue/paused', method: 'PUT', body: { paused } }), invalidatesTags: ['tasks'] }),
    cancelTask: b.mutation<unknown, string>({ query: (id) => ({ url: `/tasks/${id}/cancel`, method: 'POST', body: {} }), invalidatesTags: ['tasks'] }),
    holdTask: b.mutation<unknown, { id: string; held: boolean }>({
      query: ({ id, held }) => ({ url: `/tasks/${id}/hold`, method: 'POST', body: { held } }),
      invalidatesTags: ['tasks'],
    }),
    moveTask: b.mutation<unknown, { id: string; before: string | null }>({
      query: ({ id, before }) => ({ url: `/tasks/${id}/move`, method: 'POST', body: { before } }),
      invalidatesTags: ['tasks'],
    }),
    retryWith: b.mutation<Started, { id: string; spec: string }>({
      query: ({ id, spec }) => ({ url: `/tasks/${id}/retry-with`, method: 'POST', body: { spec } }),
      invalidatesTags: ['tasks', 'copies'],
    }),
    setPriority: b.mutation<unknown, { id: string; priority: Priority }>({
      query: ({ id, priority }) => ({ url: `/batches/${id}/priority`, method: 'PUT', body: { priority } }),
      invalidatesTags: ['tasks'],
    }),
    setLimit: b.mutation<unknown, { machine: string; limit: number }>({
      query: ({ machine, limit }) => ({ url: `/machines/${encodeURIComponent(machine)}/limit`, method: 'PUT', body: { limit } }),
      invalidatesTags: ['tasks'],
    }),
    retryTask: b.mutation<unknown, { id: string; asFar?: boolean }>({
      query: ({ id, ...body }) => ({ url: `/tasks/${id}/retry`, method: 'POST', body }),
      invalidatesTags: ['tasks'],
    }),
    retryBatch: b.mutation<unknown, string>({ query: (id) => ({ url: `/batches/${id}/retry`, method: 'POST', body: {} }), invalidatesTags: ['tasks'] }),
    cancelBatch: b.mutation<unknown, string>({ query: (id) => ({ url: `/batches/${id}/cancel`, method: 'POST', body: {} }), invalidatesTags: ['tasks'] }),

    cuts: b.query<CutRow[], string>({ query: (id) => `/projects/${id}/cuts`, providesTags: ['cuts'] }),
    cut: b.query<CutDetail, string>({ query: (id) => `/cuts/${id}`, providesTags: ['cuts'] }),
    cutText: b.query<{ name: string; lines: string[] }, { id: string; file: number }>({ query: ({ id, file }) => `/cuts/${id}/text?file=${file}` }),
    previewCut: b.query<CutPreview, { projectId: string } & CutAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/cuts/preview`, method: 'POST', body }),
      keepUnusedDataFor: 0,
    }),
    cutChanges: b.query<CutChanges, { id: string; from: string }>({ query: ({ id, from }) => `/cuts/${id}/changes?from=${from}`, providesTags: ['cuts'] }),
    previewList: b.query<ListPreview, { id: string; query: string }>({
      query: ({ id, query }) => `/cuts/${id}/list/preview?${query}`,
      providesTags: ['links', 'copies', 'pulls'],
    }),
    importCut: b.mutation<CutImported, { projectId: string; sourceCount?: 'auto' | 'list' | 'source'; follows?: string } & CutAsk>({
      query: ({ projectId, ...body }) => ({ url: `/projects/${projectId}/cuts`, method: 'POST', body }),
      invalidatesTags: ['cuts', 'links'],
    }),
    removeCut: b.mutation<Changed, string>({
      query: (id) => ({ url: `/cuts/${id}`, method: 'DELETE' }),
      ...inOrder,
      invalidatesTags: ['cuts', 'links', 'changes'],
    }),
    setEditPictures: b.mutation<CutRow, { id: string } & EditPicturesAsk>({
      query: ({ id, ...body }) => ({ url: `/cuts/${id}/reference`, method: 'PUT', body }),
      invalidatesTags: ['cuts', 'changes'],
    }),
    cutPlaylist: b.query<Playlist, { id: string; viewing: Viewing }>({
      query: ({ id, viewing }) => `/cuts/${id}/playlist?viewing=${viewing}`,
      providesTags: ['cuts', 'links', 'copies'],
    }),

    links: b.query<LinkRow[], string>({ query: (id) => `/cuts/${id}/links`, providesTags: ['links', 'copies'] }),
    sightings: b.query<Sightings, { cutId: string; event: string }>({
      query: ({ cutId, event }) => `/cuts/${cutId}/sightings?event=${encodeURIComponent(event)}`,
      providesTags: ['clips', 'cuts'],
      keepUnusedDataFor: 120,
    }),
    startPrints: b.mutation<Started, { id: string; fine: boolean }>({
      query: ({ id, fine }) => ({ url: `/projects/${id}/prints`, method: 'POST', body: { fine } }),
      invalidatesTags: ['tasks'],
    }),
    measuredCut: b.query<MeasuredCut, string>({ query: (id) => `/cuts/${id}/measured`, providesTags: ['cuts', 'links'] }),
    startMeasure: b.mutation<Started, string>({ query: (id) => ({ url: `/cuts/${id}/measure`, method: 'POST', body: {} }), invalidatesTags: ['tasks'] }),
    matchRules: b.query<MatchRules, string>({ query: (id) => `/projects/${id}/match-rules`, providesTags: ['links'] }),
    setMatchRules: b.mutation<Changed, { id: string } & MatchRules>({
      query: ({ id, ...body }) => ({ url: `/projects/${id}/match-rules`, method: 'PUT', body }),
      ...inOrder,
      invalidatesTags: ['links', 'changes'],
    }),
    previewRules: b.query<RulesPreview, { cutId: string; rules: MatchRule[] }>({
      query: ({ cutId, rules }) => ({ url: `/cuts/${cutId}/match-rules/preview`, method: 'POST', body: { rules } }),
      providesTags: ['links'],
      keepUnusedDataFor: 10,
    }),
    readReelTable: b.mutation<ReelTable, { base64: string }>({ query: (body) => ({ url: '/reel-table', method: 'POST', body }) }),
    decide: b.mutation<
      Changed,
      {
        cutId: string
        eventIds: string[]
        action: 'set' | 'confirm' | 'none' | 'camera' | 'clear'
        clipId?: string
        first?: number
        light?: string
        seen?: LinkSeen[]
      }
    >({
      query: ({ cutId, ...body }) => ({ url: `/cuts/${cutId}/decisions`, method: 'POST', body }),
      ...inOrder,
      invalidatesTags: ['links', 'changes'],
    }),
    likeness: b.query<Likeness, { cutId: string; event: string; clipId: string; at: 'first' | 'middle' | 'last'; viewing: Viewing; from?: number }>({
      query: ({ cutId, from, ...q }) => `/cuts/${cutId}/likeness?${new URLSearchParams({ ...q, ...(from === undefined ? {} : { from: String(from) }) })}`,
      keepUnusedDataFor: 300,
    }),

    plan: b.query<PlanAnswer, { cutId: string; handles: number }>({
      query: ({ cutId, handles }) => `/cuts/${cutId}/plan?handles=${handles}`,
      providesTags: ['links', 'projects', 'copies'],
    }),
    pulls: b.query<PullRow[], string>({ query: (id) => `/cuts/${id}/pulls`, providesTags: ['pulls'] }),
    makePulls: b.mutation<Started, { cutId: string; handles: number } & TargetFolder>({
      query: ({ cutId, ...body }) => ({ url: `/cuts/${cutId}/pulls`, method: 'POST', body }),
      invalidatesTags: ['pulls', 'tasks'],
    }),

    masters: b.query<MasterRow[], string>({ query: (id) => `/projects/${id}/masters`, providesTags: ['masters'] }),
    checkMaster: b.mutation<Started, string>({ query: (id) => ({ url: `/masters/${id}/check`, method: 'POST' }), invalidatesTags: ['masters', 'tasks'] }),
    renderMaster: b.mutation<
      Started & { masterId: string },
      { cutId: string; file: string; from: 'originals' | 'pulls'; placeholders: boolean; missing: 'placeholder' | 'held' } & TargetFolder
    >({ query: ({ cutId, ...body }) => ({ url: `/cuts/${cutId}/masters`, method: 'POST', body }), invalidatesTags: ['masters', 'tasks'] }),
  }),
})

export const {
  useVolumesQuery,
  useFirstBackupQuery,
  useFirstCopyQuery,
  useIntakesQuery,
  useKeepIntakesMutation,
  useLazyUnsafeFoldersQuery,
  useTargetsQuery,
  useTargetLookQuery,
  useTypedPlaceMutation,
  useAddFolderMutation,
  useSetRollMutation,
  useFolderQuery,
  useSpecsQuery,
  useProjectsQuery,
  useProjectQuery,
  useCreateProjectMutation,
  useEditProjectMutation,
  useSummaryQuery,
  useViewingQuery,
  useSetViewingMutation,
  useChangesQuery,
  useUndoMutation,
  useClipsInfiniteQuery,
  useClipQuery,
  useLanesQuery,
  useClipValuesQuery,
  useDescribeMutation,
  useTickMutation,
  usePreviewDerivationQuery,
  useApplyDerivationMutation,
  usePreviewTableQuery,
  useApplyTableMutation,
  useListViewsQuery,
  useKeepListViewsMutation,
  useProjectDecodeQuery,
  useSetProjectDecodeMutation,
  useFinishingRuleQuery,
  useSetDecodeMutation,
  useSetFinishingMutation,
  useSetFinishingRuleMutation,
  usePickGreyMutation,
  useMarkLightMutation,
  useSeeChangesMutation,
  useTakeInMutation,
  useBackupsQuery,
  useRollsQuery,
  useVerifyBackupsMutation,
  useArrivalsQuery,
  useSetArrivalsMutation,
  useTellUnsafeMutation,
  usePlacesQuery,
  usePinPlaceMutation,
  useMarkVolumeMutation,
  useReaderQuery,
  useCardMutation,
  useRemoveClipsMutation,
  usePreviewRuleQuery,
  useApplyRuleMutation,
  useClipPlaylistQuery,
  useLooksQuery,
  useAddLookMutation,
  useForgetLookMutation,
  useScopesQuery,
  usePixelQuery,
  useEstimateQuery,
  useAddSpecMutation,
  useChangeSpecMutation,
  useRemoveSpecMutation,
  useRestoreSpecMutation,
  useSetDefaultSpecMutation,
  useSpecVersionsQuery,
  useOutcomeQuery,
  useSpaceQuery,
  useDeletionQuery,
  useDeleteCopiesMutation,
  useSetCropMutation,
  useSetClipLookMutation,
  useMakeCopiesMutation,
  useCopiesQuery,
  useQueueQuery,
  useWorkingQuery,
  useClearWorkingMutation,
  useWarningsQuery,
  useAccountQuery,
  useArrivalFoldersQuery,
  useAddArrivalsMutation,
  useChangeArrivalsMutation,
  useRemoveArrivalsMutation,
  useTrialQuery,
  useStartTrialMutation,
  useCarryPlanQuery,
  useCarryMutation,
  useLogLayoutsQuery,
  useKeepLogLayoutsMutation,
  useLogQuery,
  useSaveLogMutation,
  usePreviewRenameQuery,
  useApplyRenameMutation,
  usePairsQuery,
  useStartPairingMutation,
  usePutAsideMutation,
  usePauseMutation,
  useCancelTaskMutation,
  useRetryBatchMutation,
  useHoldTaskMutation,
  useMoveTaskMutation,
  useRetryWithMutation,
  useSetPriorityMutation,
  useSetLimitMutation,
  useRetryTaskMutation,
  useCancelBatchMutation,
  useLookForMutation,
  useOneDiskQuery,
  useCutsQuery,
  useCutQuery,
  useCutTextQuery,
  useCutChangesQuery,
  useMatchRulesQuery,
  useMeasuredCutQuery,
  useSightingsQuery,
  useStartPrintsMutation,
  useStartMeasureMutation,
  usePreviewRulesQuery,
  useReadReelTableMutation,
  useSetMatchRulesMutation,
  useImportCutMutation,
  usePreviewCutQuery,
  usePreviewListQuery,
  useRemoveCutMutation,
  useSetEditPicturesMutation,
  useCutPlaylistQuery,
  useLinksQuery,
  useDecideMutation,
  useLikenessQuery,
  usePlanQuery,
  usePullsQuery,
  useMakePullsMutation,
  useMastersQuery,
  useRenderMasterMutation,
  useCheckMasterMutation,
} = api

/** The sentence of a failed request, and its details. */
export function refusal(error: FetchBaseQueryError | SerializedError | undefined): { message: string; details: string[]; code: string; now?: unknown } | null {
  if (!error) return null
  const answer = 'data' in error ? (error.data as Partial<ProblemAnswer> | undefined) : undefined
  if (answer?.error) return answer.error
  if ('status' in error && error.status === 'FETCH_ERROR')
    return { code: 'offline', message: 'Naranja does not answer. Is it still running? Start it again with ./naranja.', details: [] }
  return { code: 'unknown', message: 'error' in error ? String(error.error) : 'Something went wrong.', details: [] }
}

export type { LiveEvent }
