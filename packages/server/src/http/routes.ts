/** Every route: HTTP only, validated by the contract; the flow stands in the services. */
import {
  Account,
  BatchRow,
  Changed,
  UndoAsk,
  ChangeRow,
  ClipDetail,
  ClipPage,
  ClipQuery,
  CopyEstimate,
  CopyRequest,
  CopyRow,
  CutDetail,
  CutAsk,
  CutChanges,
  CutImport,
  CutImported,
  CutPreview,
  CutRow,
  EditPicturesAsk,
  PrintsAsk,
  DecisionRequest,
  FinishingAsk,
  FinishingRule,
  FolderListing,
  FrameAsk,
  LookFile,
  LookForAsk,
  LookRow,
  Pixel,
  PixelAsk,
  Scopes,
  Health,
  Id,
  LaneClip,
  LightAsk,
  Likeness,
  LinkRow,
  ListPreview,
  ListQuery,
  MasterRequest,
  MatchRule,
  MatchRules,
  MeasuredCut,
  ReelTable,
  RulesPreview,
  Sightings,
  MasterRow,
  NewProject,
  NewVolume,
  Ok,
  PlanAnswer,
  PlanQuery,
  Playlist,
  ProblemAnswer,
  ProjectEdit,
  ProjectRow,
  PullRequest,
  PullRow,
  Queue,
  SpecDraft,
  SpecRow,
  SpecVersion,
  CropAsk,
  DeleteAsk,
  DeletePlan,
  Space,
  LookAsk,
  Outcome,
  OutcomeAsk,
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
  LogSave,
  RenameAsk,
  RenameRow,
  ArrivalEdit,
  ArrivalRow,
  NewArrivals,
  PreviewAsk,
  Priority,
  Started,
  Summary,
  FirstCopyAsk,
  FirstPath,
  OneDisk,
  OneDiskAsk,
  Intakes,
  NewFolder,
  UnsafeFolder,
  Place,
  Ref,
  RollAsk,
  TargetAsk,
  TargetLook,
  Targets,
  TypedPath,
  TypedPlace,
  TaskRow,
  TakeIn,
  Viewing,
  ViewingChoice,
  Volume,
  Warnings,
  WorkingFiles,
  ArrivalRule,
  BackupRow,
  KnownPlace,
  RollRow,
  RuleApply,
  RuleAsk,
  RuleRow,
  PinPlace,
  ReaderAction,
  ReaderCardShape,
  ClipValues,
  ListViews,
  DecodeAsk,
  DerivationAsk,
  DetailAsk,
  GreyAnswer,
  GreyAsk,
  ProjectDecode,
  DescribeEdit,
  TableAnswer,
  TableAsk,
} from '@naranja/contract'
import { readFile } from 'node:fs/promises'
import type { FastifyInstance, FastifyReply } from 'fastify'
import type { ZodTypeProvider } from 'fastify-type-provider-zod'
import { z } from 'zod'
import { bytesText } from '@naranja/core/estimate'
import { addArrivals, type ArrivalWatch, changeArrivals, listArrivals, removeArrivals } from '../arrivals/index.ts'
import {
  arrivalRule,
  firstBackup,
  keepIntakes,
  listBackups,
  listIntakes,
  listRolls,
  onOneDisk,
  setArrivalRule,
  startTakingIn,
  startVerifying,
  tellUnsafe,
  unsafeFolders,
} from '../backups/index.ts'
import { listPulls, planText, startPulls } from '../conform/index.ts'
import {
  deleteCopies,
  estimateCopies,
  firstCopy,
  listCopies,
  outcomeOf,
  planDeletion,
  retryWithSpec,
  spaceOf,
  startCopies,
  startTrial,
  trialPicture,
  trialResult,
} from '../copies/index.ts'
import { cutChanges, cutDetail, cutText, listCuts, listFile, matchRules, previewCut, previewLists, projectOfCut, removeCut } from '../cuts/index.ts'
import { applyRename, planCarry, previewRename, startCarry } from '../handover/index.ts'
import { listChanges } from '../history/index.ts'
import { markLight, startLooking } from '../intake/index.ts'
import { checkAgain, listMasters, masterRow, startMaster } from '../masters/index.ts'
import {
  applyDerivation,
  applyRule,
  applyTable,
  describeClips,
  keepListViews,
  keepLogLayouts,
  listViews,
  logLayouts,
  previewDerivation,
  previewRule,
  previewTable,
  removeClips,
  saveLog,
  seeChanges,
  setRoll,
  tickClips,
  valuesOf,
  writeLog,
} from '../originals/index.ts'
import { pairResult, putAside, startPairing } from '../pairing/index.ts'
import { addLooks, forgetLook, listLooks, pickGrey, projectDecode, setCrop, setDecode, setLook, setProjectDecode } from '../picture/index.ts'
import { type Context, pageScript, Refusal } from '../platform/index.ts'
import {
  clipDetail,
  createProject,
  editProject,
  laneClips,
  listClips,
  listProjects,
  projectRow,
  removeProject,
  setViewing,
  summary,
  undo,
  viewingOf,
} from '../project/index.ts'
import {
  cutSheet,
  decide,
  importCutWithPrints,
  linkRowsText,
  measuredCut,
  previewRules,
  reelTable,
  setEditPicturesWithPrints,
  setMatchRules,
  sightingsOf,
  startMeasure,
  startPrints,
} from '../reconnect/index.ts'
import { finishingRule, setFinishing, setFinishingRule } from '../sources/index.ts'
import { addSpec, changeSpec, listSpecs, removeSpec, restoreSpec, setDefaultSpec, specVersions } from '../specs/index.ts'
import { accountOf, batchRow, batchTasks, cancelTasks, holdTask, listQueue, moveTask, pauseQueue, retryTasks, setLimit, setPriority } from '../tasks/index.ts'
import type { Viewer } from '../viewer/index.ts'
import {
  addFolder,
  browse,
  forgetVolume,
  keptAnswer,
  keptAnswerText,
  lastingAnswer,
  listPlaces,
  listTargets,
  listVolumes,
  lookAtTarget,
  markVolume,
  openFolder,
  pinPlace,
  readerCards,
  typedPlace,
  useReader,
} from '../volumes/index.ts'
import { clearWorking, refuseWithoutRoom, warningsNow, workingFiles } from '../working/index.ts'

const ById = z.object({ id: Id })
const errors = { 400: ProblemAnswer, 403: ProblemAnswer, 404: ProblemAnswer, 409: ProblemAnswer, 422: ProblemAnswer, 500: ProblemAnswer, 507: ProblemAnswer }
const gives = <T extends z.ZodType>(schema: T) => ({ 200: schema, ...errors })
/** Sends JSON that is text already: the contract is kept where it is made. */
const kept = (reply: FastifyReply, text: string) => reply.type('application/json; charset=utf-8').send(text) as never
const Picture = z.object({
  frame: z.coerce.number().int().min(0),
  width: z.coerce.number().int().min(16).max(4096).default(960),
  viewing: Viewing.default('originals'),
  look: Id.optional(),
  copy: Id.optional(),
})
const PieceAsk = z.object({
  look: Id.optional(),
  from: z.coerce.number().int().min(0),
  to: z.coerce.number().int().min(1),
  viewing: Viewing.default('originals'),
})

/** Ends when whoever asked has gone without the answer. */
function gone(reply: FastifyReply): AbortSignal {
  const a = new AbortController()
  reply.raw.on('close', () => !reply.raw.writableFinished && a.abort())
  return a.signal
}

export function addRoutes(
  fastify: FastifyInstance,
  ctx: Context,
  { viewer, arrivals }: { viewer: Viewer; arrivals: ArrivalWatch },
  trusted: (headers: Record<string, unknown>) => boolean,
): void {
  const app = fastify.withTypeProvider<ZodTypeProvider>()
  const ok = { ok: true as const }
  // An upgrade starts the API anew.
  const page = pageScript(ctx.config.web)
  /** What begins work: refused before anything is written down for it where there is no room on the application's own disk. */
  const beginning = { preHandler: () => refuseWithoutRoom(ctx) }

  app.get('/api/health', { schema: { response: gives(Health) } }, () => ({
    ok: true as const,
    name: 'naranja' as const,
    version: '0.1.0',
    instance: ctx.config.instance,
  }))

  // Specs
  const ByCode = z.object({ code: z.string().max(60) })
  app.get('/api/specs', { schema: { querystring: z.object({ projectId: Id.optional() }), response: gives(z.array(SpecRow)) } }, (req) =>
    listSpecs(ctx, req.query.projectId),
  )
  app.post('/api/specs', { schema: { body: SpecDraft, response: gives(ByCode) } }, (req) => addSpec(ctx, req.body))
  app.put(
    '/api/specs/:code',
    { schema: { params: ByCode, body: z.object({ version: z.int(), spec: SpecDraft }), response: gives(z.object({ version: z.int() })) } },
    (req) => changeSpec(ctx, req.params.code, req.body.version, req.body.spec),
  )
  app.delete('/api/specs/:code', { schema: { params: ByCode, response: gives(Ok) } }, (req) => removeSpec(ctx, req.params.code))
  app.post('/api/specs/:code/restore', { schema: { params: ByCode, response: gives(Ok) } }, (req) => restoreSpec(ctx, req.params.code))
  app.post('/api/specs/:code/default', { schema: { params: ByCode, body: z.object({ seen: z.string().max(60).optional() }), response: gives(Ok) } }, (req) =>
    setDefaultSpec(ctx, req.params.code, req.body.seen),
  )
  app.get('/api/specs/:code/versions', { schema: { params: ByCode, response: gives(z.array(SpecVersion)) } }, (req) => specVersions(ctx, req.params.code))
  app.post('/api/projects/:id/specs/outcome', { schema: { params: ById, body: OutcomeAsk, response: gives(Outcome) } }, (req) =>
    outcomeOf(ctx, req.params.id, req.body.spec),
  )
  app.get('/api/working', { schema: { response: gives(WorkingFiles) } }, () => workingFiles(ctx))
  app.post('/api/working/clear', { schema: { response: gives(Changed) } }, async () => {
    const freed = await clearWorking(ctx)
    return { sentence: freed ? `Working files cleared: ${bytesText(freed)} are free again.` : 'There was nothing to clear.' }
  })
  app.get('/api/warnings', { schema: { response: gives(Warnings) } }, async () => ({ warnings: await warningsNow(ctx), page }))
  app.get('/api/projects/:id/space', { schema: { params: ById, response: gives(Space) } }, (req) => spaceOf(ctx, req.params.id))
  app.post('/api/projects/:id/copies/deletion', { schema: { params: ById, body: DeleteAsk, response: gives(DeletePlan) } }, (req) =>
    planDeletion(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/copies/delete', { schema: { params: ById, body: DeleteAsk, response: gives(Changed) } }, (req) =>
    deleteCopies(ctx, req.params.id, req.body),
  )
  app.get('/api/log-layouts', { schema: { response: gives(LogLayouts) } }, () => logLayouts(ctx))
  app.put('/api/log-layouts', { schema: { body: LogLayouts, response: gives(LogLayouts) } }, (req) => keepLogLayouts(ctx, req.body))
  app.post('/api/projects/:id/log', { schema: { params: ById, body: LogAsk, response: gives(LogFiles) } }, (req) => writeLog(ctx, req.params.id, req.body))
  app.post('/api/projects/:id/log/save', { schema: { params: ById, body: LogSave, response: gives(Changed) } }, (req) => saveLog(ctx, req.params.id, req.body))
  app.post('/api/projects/:id/copies/names/preview', { schema: { params: ById, body: RenameAsk, response: gives(z.array(RenameRow)) } }, (req) =>
    previewRename(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/copies/names', { schema: { params: ById, body: RenameAsk, response: gives(Changed) } }, (req) =>
    applyRename(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/carry/plan', { schema: { params: ById, body: CarryAsk, response: gives(CarryPlan) } }, (req) =>
    planCarry(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/carry', { ...beginning, schema: { params: ById, body: CarryAsk, response: gives(Started) } }, (req) =>
    startCarry(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/trial', { ...beginning, schema: { params: ById, body: TrialAsk, response: gives(Started) } }, (req) =>
    startTrial(ctx, req.params.id, req.body),
  )
  app.get('/api/tasks/:id/trial', { schema: { params: ById, response: gives(TrialResult) } }, (req) => trialResult(ctx, req.params.id))
  app.get('/api/tasks/:id/trial/:n', { schema: { params: ById.extend({ n: z.coerce.number().int().min(0).max(3) }) } }, async (req, reply) => {
    const file = await readFile(trialPicture(ctx, req.params.id, req.params.n)).catch(() => null)
    if (!file) throw new Refusal('not-found', 'That picture of the trial does not exist any more. Try the specs again.')
    return reply.type('image/png').header('cache-control', 'private, max-age=3600').send(file)
  })
  app.post('/api/projects/:id/pairs', { ...beginning, schema: { params: ById, body: PairAsk, response: gives(Started) } }, (req) =>
    startPairing(ctx, req.params.id, req.body),
  )
  app.get('/api/tasks/:id/pairs', { schema: { params: ById, response: gives(PairResult) } }, (req) => pairResult(ctx, req.params.id))
  app.post('/api/projects/:id/index-files/aside', { schema: { params: ById, body: AsideAsk, response: gives(Changed) } }, (req) =>
    putAside(ctx, req.params.id, req.body),
  )
  app.post('/api/clips/:id/preview', { schema: { params: ById, body: PreviewAsk } }, async (req, reply) =>
    reply.type('image/png').send(await viewer.preview(req.params.id, req.body, gone(reply))),
  )
  app.post('/api/projects/:id/crop', { schema: { params: ById, body: CropAsk, response: gives(Changed) } }, (req) => setCrop(ctx, req.params.id, req.body))
  app.post('/api/projects/:id/clip-look', { schema: { params: ById, body: LookAsk, response: gives(Changed) } }, (req) => setLook(ctx, req.params.id, req.body))

  app.post('/api/projects/:id/finishing', { bodyLimit: 40_000_000, schema: { params: ById, body: FinishingAsk, response: gives(Changed) } }, (req) =>
    setFinishing(ctx, req.params.id, req.body),
  )
  app.get('/api/projects/:id/finishing-rule', { schema: { params: ById, response: gives(FinishingRule) } }, (req) => finishingRule(ctx, req.params.id))
  app.put('/api/projects/:id/finishing-rule', { schema: { params: ById, body: FinishingRule, response: gives(Changed) } }, (req) =>
    setFinishingRule(ctx, req.params.id, req.body),
  )

  // Volumes
  app.get('/api/volumes', { schema: { querystring: z.object({ projectId: Id.optional() }), response: gives(z.array(Volume)) } }, (req) =>
    listVolumes(ctx, req.query.projectId),
  )
  app.post('/api/volumes', { schema: { body: NewVolume, response: gives(Volume) } }, async (req) => {
    const v = await openFolder(ctx, req.body.path, trusted(req.headers), req.body.label)
    return (await listVolumes(ctx)).find((x) => x.id === v.id) as z.infer<typeof Volume>
  })
  app.get('/api/volumes/:id/folder', { schema: { params: ById, querystring: z.object({ ref: Ref.default('') }), response: gives(FolderListing) } }, (req) =>
    browse(ctx, req.params.id, req.query.ref),
  )

  app.post('/api/volumes/:id/folder', { schema: { params: ById, body: NewFolder, response: gives(Place) } }, (req) =>
    addFolder(ctx, { volumeId: req.params.id, ref: req.body.ref }, req.body.name),
  )
  app.post('/api/volumes/:id/marker', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await markVolume(ctx, req.params.id)
    return ok
  })
  app.get('/api/places', { schema: { response: gives(z.array(KnownPlace)) } }, () => listPlaces(ctx))
  app.post('/api/places', { schema: { body: PinPlace, response: gives(Ok) } }, async (req) => {
    await pinPlace(ctx, req.body)
    return ok
  })
  app.post('/api/places/typed', { schema: { body: TypedPath, response: gives(TypedPlace) } }, (req) => typedPlace(ctx, req.body.path, trusted(req.headers)))
  app.get('/api/projects/:id/targets', { schema: { params: ById, response: gives(Targets) } }, (req) => listTargets(ctx, req.params.id))
  app.get('/api/target', { schema: { querystring: TargetAsk, response: gives(TargetLook) } }, (req) => lookAtTarget(ctx, req.query))
  app.get('/api/reader', { schema: { response: gives(z.array(ReaderCardShape)) } }, () => readerCards(ctx))
  app.post('/api/reader', { schema: { body: ReaderAction, response: gives(Ok) } }, async (req) => {
    await useReader(ctx, req.body)
    return ok
  })
  app.delete('/api/volumes/:id', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await forgetVolume(ctx, req.params.id)
    return ok
  })

  // Projects
  app.get('/api/projects', { schema: { response: gives(z.array(ProjectRow)) } }, () => listProjects(ctx))
  app.post('/api/projects', { schema: { body: NewProject, response: gives(ProjectRow) } }, (req) => createProject(ctx, req.body))
  app.get('/api/projects/:id', { schema: { params: ById, response: gives(ProjectRow) } }, (req) => projectRow(ctx, req.params.id))
  app.patch('/api/projects/:id', { schema: { params: ById, body: ProjectEdit, response: gives(ProjectRow) } }, (req) =>
    editProject(ctx, req.params.id, req.body),
  )
  app.delete('/api/projects/:id', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await removeProject(ctx, req.params.id)
    return ok
  })
  app.get('/api/projects/:id/summary', { schema: { params: ById, response: gives(Summary) } }, (req) => summary(ctx, req.params.id))
  app.get('/api/projects/:id/viewing', { schema: { params: ById, response: gives(ViewingChoice) } }, async (req) => ({
    viewing: await viewingOf(ctx, req.params.id),
  }))
  app.put('/api/projects/:id/viewing', { schema: { params: ById, body: ViewingChoice, response: gives(ViewingChoice) } }, async (req) => {
    await setViewing(ctx, req.params.id, req.body.viewing)
    return req.body
  })
  app.get('/api/projects/:id/changes', { schema: { params: ById, response: gives(z.array(ChangeRow)) } }, (req) => listChanges(ctx, req.params.id))
  app.post('/api/projects/:id/undo', { schema: { params: ById, body: UndoAsk, response: gives(Changed) } }, (req) => undo(ctx, req.params.id, req.body))

  // Originals
  app.post('/api/projects/:id/take-in', { ...beginning, schema: { params: ById, body: TakeIn, response: gives(Started) } }, (req) =>
    startTakingIn(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/look-for', { ...beginning, bodyLimit: 40_000_000, schema: { params: ById, body: LookForAsk, response: gives(Started) } }, (req) =>
    startLooking(ctx, req.params.id, req.body),
  )
  app.get('/api/projects/:id/clips', { schema: { params: ById, querystring: ClipQuery, response: gives(ClipPage) } }, (req) =>
    listClips(ctx, req.params.id, req.query),
  )
  app.post('/api/projects/:id/clips/remove', { schema: { params: ById, body: z.object({ clipIds: z.array(Id).min(1) }), response: gives(Changed) } }, (req) =>
    removeClips(ctx, req.params.id, req.body.clipIds),
  )
  app.get('/api/projects/:id/backups', { schema: { params: ById, response: gives(z.array(BackupRow)) } }, (req) => listBackups(ctx, req.params.id))
  app.post(
    '/api/projects/:id/backups/verify',
    { ...beginning, schema: { params: ById, body: z.object({ backupIds: z.array(Id).default([]) }), response: gives(Started) } },
    (req) => startVerifying(ctx, req.params.id, req.body.backupIds),
  )
  app.get('/api/projects/:id/first-copy', { schema: { params: ById, querystring: FirstCopyAsk, response: gives(FirstPath) } }, (req) =>
    firstCopy(ctx, req.params.id, req.query),
  )
  app.get('/api/one-disk', { schema: { querystring: OneDiskAsk, response: gives(OneDisk) } }, (req) => onOneDisk(ctx, req.query))
  app.get('/api/first-backup', { schema: { querystring: Place, response: gives(FirstPath) } }, (req) => firstBackup(ctx, req.query))
  app.get('/api/projects/:id/intakes', { schema: { params: ById, response: gives(Intakes) } }, (req) => listIntakes(ctx, req.params.id))
  app.put('/api/projects/:id/intakes', { schema: { params: ById, body: Intakes, response: gives(Intakes) } }, (req) =>
    keepIntakes(ctx, req.params.id, req.body),
  )
  app.get('/api/projects/:id/unsafe-folders', { schema: { params: ById, response: gives(z.array(UnsafeFolder)) } }, (req) => unsafeFolders(ctx, req.params.id))
  app.get('/api/projects/:id/rolls', { schema: { params: ById, response: gives(z.array(RollRow)) } }, (req) => listRolls(ctx, req.params.id))
  app.get('/api/projects/:id/arrivals', { schema: { params: ById, response: gives(ArrivalRule) } }, (req) => arrivalRule(ctx, req.params.id))
  app.put('/api/projects/:id/arrivals', { schema: { params: ById, body: ArrivalRule, response: gives(ArrivalRule) } }, (req) =>
    setArrivalRule(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/told-unsafe', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await tellUnsafe(ctx, req.params.id)
    return ok
  })
  app.post('/api/projects/:id/rules/preview', { schema: { params: ById, body: RuleAsk, response: gives(z.array(RuleRow)) } }, (req) =>
    previewRule(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/rules', { schema: { params: ById, body: RuleApply, response: gives(Changed) } }, (req) => applyRule(ctx, req.params.id, req.body))
  app.get(
    '/api/projects/:id/clips/values',
    {
      schema: { params: ById, querystring: z.object({ field: z.enum(['roll', 'day', 'reel', 'scene', 'camera', 'codec']) }), response: gives(ClipValues) },
    },
    (req) => valuesOf(ctx, req.params.id, req.query.field),
  )
  app.patch(
    '/api/projects/:id/clips',
    { bodyLimit: 40_000_000, schema: { params: ById, body: z.object({ edits: z.array(DescribeEdit).min(1).max(100_000) }), response: gives(Changed) } },
    (req) => describeClips(ctx, req.params.id, req.body.edits),
  )
  app.post(
    '/api/projects/:id/ticks',
    {
      bodyLimit: 40_000_000,
      schema: { params: ById, body: z.object({ ticked: z.boolean(), clipIds: z.array(Id).min(1).max(200_000) }), response: gives(Changed) },
    },
    (req) => tickClips(ctx, req.params.id, req.body.ticked, req.body.clipIds),
  )
  app.post(
    '/api/projects/:id/derive/preview',
    { bodyLimit: 40_000_000, schema: { params: ById, body: DerivationAsk, response: gives(z.array(RuleRow)) } },
    (req) => previewDerivation(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/derive', { bodyLimit: 40_000_000, schema: { params: ById, body: DerivationAsk, response: gives(Changed) } }, (req) =>
    applyDerivation(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/table/preview', { bodyLimit: 40_000_000, schema: { params: ById, body: TableAsk, response: gives(TableAnswer) } }, (req) =>
    previewTable(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/table', { bodyLimit: 40_000_000, schema: { params: ById, body: TableAsk, response: gives(Changed) } }, (req) =>
    applyTable(ctx, req.params.id, req.body),
  )
  app.get('/api/projects/:id/views', { schema: { params: ById, response: gives(ListViews.nullable()) } }, (req) => listViews(ctx, req.params.id))
  app.put('/api/projects/:id/views', { schema: { params: ById, body: ListViews, response: gives(ListViews) } }, (req) =>
    keepListViews(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/light-copies', { bodyLimit: 40_000_000, schema: { params: ById, body: LightAsk, response: gives(Changed) } }, (req) =>
    markLight(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/roll', { bodyLimit: 40_000_000, schema: { params: ById, body: RollAsk, response: gives(Changed) } }, (req) =>
    setRoll(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/changes-seen', { schema: { params: ById, response: gives(Changed) } }, (req) => seeChanges(ctx, req.params.id))
  app.get('/api/projects/:id/decode', { schema: { params: ById, response: gives(ProjectDecode) } }, (req) => projectDecode(ctx, req.params.id))
  app.put('/api/projects/:id/decode', { schema: { params: ById, body: ProjectDecode, response: gives(Changed) } }, (req) =>
    setProjectDecode(ctx, req.params.id, req.body),
  )
  app.put(
    '/api/projects/:id/clips/decode',
    {
      bodyLimit: 40_000_000,
      schema: { params: ById, body: DecodeAsk, response: gives(Changed) },
    },
    (req) => setDecode(ctx, req.params.id, req.body),
  )
  app.post('/api/clips/:id/grey', { schema: { params: ById, body: GreyAsk, response: gives(GreyAnswer) } }, (req) =>
    viewer.closely(() => pickGrey(ctx, req.params.id, req.body)),
  )
  app.get('/api/projects/:id/lanes', { schema: { params: ById, response: gives(z.array(LaneClip)) } }, (req) => laneClips(ctx, req.params.id))
  app.get('/api/clips/:id', { schema: { params: ById, response: gives(ClipDetail) } }, (req) => clipDetail(ctx, req.params.id))
  app.get(
    '/api/clips/:id/playlist',
    { schema: { params: ById, querystring: z.object({ viewing: Viewing.default('originals'), look: Id.optional() }), response: gives(Playlist) } },
    (req) => viewer.clipPlaylist(req.params.id, req.query.viewing, req.query.look),
  )

  // Edit copies
  app.post('/api/projects/:id/copies/estimate', { schema: { params: ById, body: CopyRequest, response: gives(CopyEstimate) } }, (req) =>
    estimateCopies(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/copies', { ...beginning, schema: { params: ById, body: CopyRequest, response: gives(Started) } }, (req) =>
    startCopies(ctx, req.params.id, req.body),
  )
  app.get('/api/projects/:id/copies', { schema: { params: ById, response: gives(z.array(CopyRow)) } }, (req) => listCopies(ctx, req.params.id))

  // Arrivals
  app.get('/api/projects/:id/arrival-folders', { schema: { params: ById, response: gives(z.array(ArrivalRow)) } }, (req) =>
    listArrivals(ctx, req.params.id, arrivals.arriving),
  )
  app.post('/api/projects/:id/arrival-folders', { schema: { params: ById, body: NewArrivals, response: gives(z.object({ id: Id })) } }, (req) =>
    addArrivals(ctx, req.params.id, req.body),
  )
  app.patch('/api/arrival-folders/:id', { schema: { params: ById, body: ArrivalEdit, response: gives(Changed) } }, (req) =>
    changeArrivals(ctx, req.params.id, req.body),
  )
  app.delete('/api/arrival-folders/:id', { schema: { params: ById, response: gives(Changed) } }, (req) => removeArrivals(ctx, req.params.id))

  // Tasks
  app.get('/api/queue', { schema: { querystring: z.object({ projectId: Id.optional() }), response: gives(Queue) } }, (req) =>
    listQueue(ctx, req.query.projectId),
  )
  app.put('/api/queue/paused', { schema: { body: z.object({ paused: z.boolean() }), response: gives(Ok) } }, async (req) => {
    await pauseQueue(ctx, req.body.paused)
    return ok
  })
  app.get('/api/tasks/:id/account', { schema: { params: ById, response: gives(Account) } }, (req) => accountOf(ctx, req.params.id))
  app.post('/api/tasks/:id/cancel', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await cancelTasks(ctx, { taskId: req.params.id })
    return ok
  })
  app.post('/api/tasks/:id/retry', { schema: { params: ById, body: z.object({ asFar: z.boolean().default(false) }), response: gives(Ok) } }, async (req) => {
    await retryTasks(ctx, { taskId: req.params.id }, req.body.asFar)
    return ok
  })
  app.post('/api/tasks/:id/retry-with', { ...beginning, schema: { params: ById, body: z.object({ spec: z.string() }), response: gives(Started) } }, (req) =>
    retryWithSpec(ctx, req.params.id, req.body.spec),
  )
  app.post('/api/tasks/:id/hold', { schema: { params: ById, body: z.object({ held: z.boolean() }), response: gives(Ok) } }, async (req) => {
    await holdTask(ctx, req.params.id, req.body.held)
    return ok
  })
  app.post('/api/tasks/:id/move', { schema: { params: ById, body: z.object({ before: Id.nullable() }), response: gives(Ok) } }, async (req) => {
    await moveTask(ctx, req.params.id, req.body.before)
    return ok
  })
  app.put('/api/batches/:id/priority', { schema: { params: ById, body: z.object({ priority: Priority }), response: gives(Ok) } }, async (req) => {
    await setPriority(ctx, req.params.id, req.body.priority)
    return ok
  })
  app.put(
    '/api/machines/:name/limit',
    { schema: { params: z.object({ name: z.string().max(200) }), body: z.object({ limit: z.int().min(1).max(32) }), response: gives(Ok) } },
    async (req) => {
      await setLimit(ctx, req.params.name, req.body.limit)
      return ok
    },
  )
  app.get('/api/batches/:id', { schema: { params: ById, response: gives(BatchRow) } }, (req) => batchRow(ctx, req.params.id))
  app.get('/api/batches/:id/tasks', { schema: { params: ById, response: gives(z.array(TaskRow)) } }, (req) => batchTasks(ctx, req.params.id))
  app.post('/api/batches/:id/retry', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await retryTasks(ctx, { batchId: req.params.id })
    return ok
  })
  app.post('/api/batches/:id/cancel', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await cancelTasks(ctx, { batchId: req.params.id })
    return ok
  })

  // Cut lists
  app.get('/api/projects/:id/cuts', { schema: { params: ById, response: gives(z.array(CutRow)) } }, (req) => listCuts(ctx, req.params.id))
  app.post('/api/projects/:id/cuts', { bodyLimit: 80_000_000, schema: { params: ById, body: CutImport, response: gives(CutImported) } }, (req) =>
    importCutWithPrints(ctx, req.params.id, req.body),
  )
  app.post('/api/projects/:id/cuts/preview', { bodyLimit: 80_000_000, schema: { params: ById, body: CutAsk, response: gives(CutPreview) } }, (req) =>
    previewCut(ctx, req.params.id, req.body),
  )
  app.get('/api/cuts/:id', { schema: { params: ById, response: gives(CutDetail) } }, async (req, reply) => {
    const { id } = req.params
    return kept(reply, await keptAnswer(ctx, await projectOfCut(ctx, id), `cut ${id}`, () => cutDetail(ctx, id)))
  })
  app.delete('/api/cuts/:id', { schema: { params: ById, response: gives(Changed) } }, (req) => removeCut(ctx, req.params.id))
  app.get(
    '/api/cuts/:id/text',
    {
      schema: {
        params: ById,
        querystring: z.object({ file: z.coerce.number().int().min(0).default(0) }),
        response: gives(z.object({ name: z.string(), lines: z.array(z.string()) })),
      },
    },
    async (req, reply) => {
      const { id } = req.params
      await projectOfCut(ctx, id)
      return kept(reply, await lastingAnswer(`text ${id} ${req.query.file}`, () => cutText(ctx, id, req.query.file)))
    },
  )
  app.get('/api/cuts/:id/changes', { schema: { params: ById, querystring: z.object({ from: Id }), response: gives(CutChanges) } }, async (req, reply) => {
    const [{ id }, { from }] = [req.params, req.query]
    await Promise.all([projectOfCut(ctx, id), projectOfCut(ctx, from)])
    return kept(reply, await lastingAnswer(`changes ${id} ${from}`, () => cutChanges(ctx, id, from)))
  })
  app.put('/api/cuts/:id/reference', { schema: { params: ById, body: EditPicturesAsk, response: gives(CutRow) } }, (req) =>
    setEditPicturesWithPrints(ctx, req.params.id, req.body),
  )
  app.get(
    '/api/cuts/:id/playlist',
    { schema: { params: ById, querystring: z.object({ viewing: Viewing.default('originals') }), response: gives(Playlist) } },
    async (req, reply) => {
      const [{ id }, { viewing }] = [req.params, req.query]
      return kept(reply, await keptAnswer(ctx, await projectOfCut(ctx, id), `playlist ${id} ${viewing}`, () => viewer.cutPlaylist(id, viewing)))
    },
  )

  // Reconnect
  app.get('/api/cuts/:id/links', { schema: { params: ById, response: gives(z.array(LinkRow)) } }, async (req, reply) => {
    const { id } = req.params
    return kept(reply, await linkRowsText(ctx, id))
  })
  app.post('/api/cuts/:id/decisions', { schema: { params: ById, body: DecisionRequest, response: gives(Changed) } }, (req) =>
    decide(ctx, req.params.id, req.body),
  )
  app.get(
    '/api/cuts/:id/sheet',
    {
      schema: {
        params: ById,
        querystring: z.object({ viewing: Viewing.default('originals'), pictures: z.enum(['0', '1', '3']).default('1') }),
        response: gives(z.string()),
      },
    },
    async (req, reply) =>
      reply.type('text/html; charset=utf-8').send(await cutSheet(ctx, req.params.id, req.query.viewing, Number(req.query.pictures) as 0 | 1 | 3)),
  )
  app.post('/api/cuts/:id/measure', { ...beginning, schema: { params: ById, response: gives(Started) } }, (req) => startMeasure(ctx, req.params.id))
  app.get('/api/cuts/:id/measured', { schema: { params: ById, response: gives(MeasuredCut) } }, (req) => measuredCut(ctx, req.params.id))
  app.post('/api/projects/:id/prints', { ...beginning, schema: { params: ById, body: PrintsAsk, response: gives(Started) } }, (req) =>
    startPrints(ctx, req.params.id, req.body.fine),
  )
  app.get('/api/cuts/:id/sightings', { schema: { params: ById, querystring: z.object({ event: z.string() }), response: gives(Sightings) } }, (req) =>
    sightingsOf(ctx, req.params.id, req.query.event),
  )
  app.get('/api/projects/:id/match-rules', { schema: { params: ById, response: gives(MatchRules) } }, (req) => matchRules(ctx, req.params.id))
  app.put('/api/projects/:id/match-rules', { bodyLimit: 20_000_000, schema: { params: ById, body: MatchRules, response: gives(Changed) } }, (req) =>
    setMatchRules(ctx, req.params.id, req.body),
  )
  app.post(
    '/api/cuts/:id/match-rules/preview',
    { bodyLimit: 20_000_000, schema: { params: ById, body: z.object({ rules: z.array(MatchRule).max(200) }), response: gives(RulesPreview) } },
    (req) => previewRules(ctx, req.params.id, req.body.rules),
  )
  app.post('/api/reel-table', { bodyLimit: 20_000_000, schema: { body: z.object({ base64: z.string() }), response: gives(ReelTable) } }, (req) =>
    reelTable(req.body.base64),
  )
  app.get(
    '/api/cuts/:id/likeness',
    {
      schema: {
        params: ById,
        querystring: z.object({
          event: z.string(),
          clipId: Id,
          at: z.enum(['first', 'middle', 'last']).default('middle'),
          viewing: Viewing.default('originals'),
          /** The candidate's first frame, where its clip is one twice. */
          from: z.coerce.number().int().optional(),
        }),
        response: gives(Likeness),
      },
    },
    (req) => viewer.likenessCurve(req.params.id, req.query.event, req.query.clipId, req.query.at, req.query.viewing, req.query.from),
  )

  // Conform
  app.get('/api/cuts/:id/plan', { schema: { params: ById, querystring: PlanQuery, response: gives(PlanAnswer) } }, async (req, reply) => {
    const { id } = req.params
    const { handles } = req.query
    return kept(reply, await keptAnswerText(ctx, await projectOfCut(ctx, id), `plan ${id} ${handles}`, () => planText(ctx, id, handles)))
  })
  app.post('/api/cuts/:id/pulls', { ...beginning, schema: { params: ById, body: PullRequest, response: gives(Started) } }, (req) =>
    startPulls(ctx, req.params.id, req.body),
  )
  app.get('/api/cuts/:id/pulls', { schema: { params: ById, response: gives(z.array(PullRow)) } }, (req) => listPulls(ctx, req.params.id))
  app.get('/api/cuts/:id/list/preview', { schema: { params: ById, querystring: ListQuery, response: gives(ListPreview) } }, async (req, reply) => {
    const { id } = req.params
    return kept(reply, await keptAnswer(ctx, await projectOfCut(ctx, id), `list ${id} ${JSON.stringify(req.query)}`, () => previewLists(ctx, id, req.query)))
  })
  app.get(
    '/api/cuts/:id/list',
    { schema: { params: ById, querystring: ListQuery.extend({ file: z.coerce.number().int().min(0).default(0) }), response: gives(z.string()) } },
    async (req, reply) => {
      const { file, ...query } = req.query
      const list = await listFile(ctx, req.params.id, query, file)
      return reply
        .type('text/plain; charset=utf-8')
        .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(list.name)}`)
        .send(list.text)
    },
  )

  // Masters
  app.post('/api/cuts/:id/masters', { ...beginning, schema: { params: ById, body: MasterRequest, response: gives(Started.extend({ masterId: Id })) } }, (req) =>
    startMaster(ctx, req.params.id, req.body),
  )
  app.get('/api/projects/:id/masters', { schema: { params: ById, response: gives(z.array(MasterRow)) } }, (req) => listMasters(ctx, req.params.id))
  app.get('/api/masters/:id', { schema: { params: ById, response: gives(MasterRow) } }, (req) => masterRow(ctx, req.params.id))
  app.post('/api/masters/:id/check', { ...beginning, schema: { params: ById, response: gives(Started) } }, (req) => checkAgain(ctx, req.params.id))
  app.get('/api/masters/:id/report', { schema: { params: ById, response: gives(z.string()) } }, async (req, reply) => {
    const m = await masterRow(ctx, req.params.id)
    const name = `${m.path.slice(m.path.lastIndexOf('/') + 1).replace(/\.mov$/, '')} report.json`
    return reply
      .type('application/json')
      .header('content-disposition', `attachment; filename*=UTF-8''${encodeURIComponent(name)}`)
      .send(JSON.stringify(m.report, null, 2))
  })

  // Looks, and what is read from pictures
  app.get('/api/projects/:id/looks', { schema: { params: ById, response: gives(z.array(LookRow)) } }, (req) => listLooks(ctx, req.params.id))
  app.post('/api/projects/:id/looks', { bodyLimit: 90_000_000, schema: { params: ById, body: LookFile, response: gives(z.array(LookRow)) } }, (req) =>
    addLooks(ctx, req.params.id, req.body),
  )
  app.delete('/api/looks/:id', { schema: { params: ById, response: gives(Ok) } }, async (req) => {
    await forgetLook(ctx, req.params.id)
    return ok
  })
  app.get('/api/clips/:id/scopes', { schema: { params: ById, querystring: FrameAsk, response: gives(Scopes) } }, (req) =>
    viewer.scopes(req.params.id, req.query),
  )
  app.get('/api/clips/:id/pixel', { schema: { params: ById, querystring: PixelAsk, response: gives(Pixel) } }, (req) => viewer.pixel(req.params.id, req.query))

  // Pictures and pieces
  app.get('/api/clips/:id/still', { schema: { params: ById, querystring: Picture } }, async (req, reply) => {
    const { viewing, frame, width, look, copy } = req.query
    const { jpeg, kind } = await viewer.clipStill(req.params.id, viewing, frame, width, { lookId: look, copyId: copy, gone: gone(reply) })
    return reply.type('image/jpeg').header('cache-control', 'private, max-age=60').header('x-naranja-shown', kind).send(jpeg)
  })
  app.get('/api/clips/:id/detail', { schema: { params: ById, querystring: DetailAsk } }, async (req, reply) =>
    reply
      .type('image/png')
      .header('cache-control', 'private, max-age=60')
      .send(await viewer.detail(req.params.id, req.query, gone(reply))),
  )
  app.get('/api/cuts/:id/edit/still', { schema: { params: ById, querystring: Picture.extend({ event: z.string() }) } }, async (req, reply) => {
    const { event, frame, width } = req.query
    const { jpeg, what } = await viewer.editStill(req.params.id, event, frame, width, gone(reply))
    return reply.type('image/jpeg').header('cache-control', 'private, max-age=60').header('x-naranja-shown', encodeURIComponent(what)).send(jpeg)
  })
  app.get('/api/cuts/:id/still', { schema: { params: ById, querystring: Picture } }, async (req, reply) =>
    reply
      .type('image/jpeg')
      .header('cache-control', 'private, max-age=5')
      .send(await viewer.cutStill(req.params.id, req.query.viewing, req.query.frame, gone(reply))),
  )
  app.get('/api/masters/:id/still', { schema: { params: ById, querystring: Picture } }, async (req, reply) =>
    reply
      .type('image/jpeg')
      .header('cache-control', 'private, max-age=60')
      .send(await viewer.masterStill(req.params.id, req.query.frame, req.query.width, gone(reply))),
  )
  app.get('/api/clips/:id/piece', { schema: { params: ById, querystring: PieceAsk } }, async (req, reply) => {
    const { stream, stop } = await viewer.clipPiece(req.params.id, req.query.viewing, req.query.from, req.query.to, req.query.look)
    req.raw.on('close', () => req.raw.destroyed && stop())
    return reply.type('video/mp4').send(stream)
  })
  app.get('/api/clips/:id/sound', { schema: { params: ById, querystring: PieceAsk } }, async (req, reply) => {
    const { stream, stop } = await viewer.clipSound(req.params.id, req.query.viewing, req.query.from, req.query.to)
    req.raw.on('close', () => req.raw.destroyed && stop())
    return reply.type('audio/mp4').send(stream)
  })
  app.get('/api/cuts/:id/sound', { schema: { params: ById, querystring: PieceAsk } }, async (req, reply) => {
    const { stream, stop } = await viewer.cutSound(req.params.id, req.query.viewing, req.query.from, req.query.to)
    req.raw.on('close', () => req.raw.destroyed && stop())
    return reply.type('audio/mp4').send(stream)
  })
  app.get('/api/cuts/:id/piece', { schema: { params: ById, querystring: PieceAsk } }, async (req, reply) => {
    const { stream, stop } = await viewer.cutPiece(req.params.id, req.query.viewing, req.query.from, req.query.to)
    req.raw.on('close', () => req.raw.destroyed && stop())
    return reply.type('video/mp4').send(stream)
  })
}
