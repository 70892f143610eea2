/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { removeClips } from './clips.ts'
import {
  applyDerivation,
  applyTable,
  describeClips,
  keepListViews,
  listViews,
  previewDerivation,
  previewTable,
  setRoll,
  tickClips,
  valuesOf,
} from './describe.ts'
import { keepLogLayouts, logLayouts, saveLog, writeLog } from './log.ts'
import { seeChanges } from './remedies.ts'
import { applyRule, previewRule } from './rules.ts'

export const originalsRoutes = {
  logLayouts: (ctx) => logLayouts(ctx),
  keepLogLayouts: (ctx, { body }) => keepLogLayouts(ctx, body),
  log: (ctx, { params, body }) => writeLog(ctx, params.projectId, body),
  saveLog: (ctx, { params, body }) => saveLog(ctx, params.projectId, body),
  removeClips: (ctx, { params, body }) => removeClips(ctx, params.projectId, body.clipIds),
  previewRule: (ctx, { params, body }) => previewRule(ctx, params.projectId, body),
  applyRule: (ctx, { params, body }) => applyRule(ctx, params.projectId, body),
  clipValues: (ctx, { params, query }) => valuesOf(ctx, params.projectId, query.field),
  describe: (ctx, { params, body }) => describeClips(ctx, params.projectId, body.edits),
  tick: (ctx, { params, body }) => tickClips(ctx, params.projectId, body.ticked, body.clipIds),
  previewDerivation: (ctx, { params, body }) => previewDerivation(ctx, params.projectId, body),
  applyDerivation: (ctx, { params, body }) => applyDerivation(ctx, params.projectId, body),
  previewTable: (ctx, { params, body }) => previewTable(ctx, params.projectId, body),
  applyTable: (ctx, { params, body }) => applyTable(ctx, params.projectId, body),
  listViews: (ctx, { params }) => listViews(ctx, params.projectId),
  keepListViews: (ctx, { params, body }) => keepListViews(ctx, params.projectId, body),
  setRoll: (ctx, { params, body }) => setRoll(ctx, params.projectId, body),
  seeChanges: (ctx, { params }) => seeChanges(ctx, params.projectId),
} satisfies Partial<Handlers>
