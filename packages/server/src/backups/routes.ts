/** What requests ask of this room. */
import type { Handlers } from '../platform/index.ts'
import { arrivalRule, keepIntakes, listIntakes, setArrivalRule } from './rules.ts'
import { firstBackup, onOneDisk, startTakingIn } from './takeIn.ts'
import { listBackups, listRolls, tellUnsafe, unsafeFolders } from './rolls.ts'
import { startVerifying } from './run.ts'

export const backupsRoutes = {
  takeIn: (ctx, { params, body }) => startTakingIn(ctx, params.projectId, body),
  backups: (ctx, { params }) => listBackups(ctx, params.projectId),
  verifyBackups: (ctx, { params, body }) => startVerifying(ctx, params.projectId, body.backupIds),
  oneDisk: (ctx, { query }) => onOneDisk(ctx, query),
  firstBackup: (ctx, { query }) => firstBackup(ctx, query),
  intakes: (ctx, { params }) => listIntakes(ctx, params.projectId),
  keepIntakes: (ctx, { params, body }) => keepIntakes(ctx, params.projectId, body),
  unsafeFolders: (ctx, { params }) => unsafeFolders(ctx, params.projectId),
  rolls: (ctx, { params }) => listRolls(ctx, params.projectId),
  arrivals: (ctx, { params }) => arrivalRule(ctx, params.projectId),
  setArrivals: (ctx, { params, body }) => setArrivalRule(ctx, params.projectId, body),
  tellUnsafe: (ctx, { params }) => tellUnsafe(ctx, params.projectId),
} satisfies Partial<Handlers>
