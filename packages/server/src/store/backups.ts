/** Questions about backups that the database answers in one go. */
import type { EntityManager } from 'typeorm'

/**
 * A file counts where it is verified with the size the clip has; a clip of many files only where the whole backup is
 * complete. A clip that stands in a place itself counts with every other place that holds the same file of the same card.
 */
const verifiedOn = `
  SELECT c.id, b.placeVolumeId FROM clip c
    JOIN backup_file f ON f.sourceHash = c.pathHash AND f.verified
    JOIN backup b ON b.id = f.backupId
    WHERE c.projectId = ? AND IF(c.files > 1, b.state = 'complete', f.size = c.size)
  UNION ALL
  SELECT c.id, b.placeVolumeId FROM clip c
    JOIN backup_file g ON g.placeHash = c.pathHash AND g.verified
    JOIN backup_file f ON f.sourceHash = g.sourceHash AND f.verified
    JOIN backup b ON b.id = f.backupId
    WHERE c.projectId = ? AND IF(c.files > 1, b.state = 'complete', f.size = c.size AND g.size = c.size)`

/** Counts anew on how many volumes each clip of a project, or each of some, has a verified copy. */
export async function countBackups(db: EntityManager, projectId: string, only?: readonly string[]): Promise<void> {
  if (only?.length === 0) return
  const some = only ? ' AND c.id IN (?)' : ''
  const parts = verifiedOn.replace(/WHERE c\.projectId = \?/g, (w) => w + some)
  const ids = only ? [only] : []
  await db.query(
    `UPDATE clip c LEFT JOIN (SELECT id, COUNT(DISTINCT placeVolumeId) n FROM (${parts}) v GROUP BY id) n ON n.id = c.id
       SET c.backups = COALESCE(n.n, 0) WHERE c.projectId = ?${some} AND c.backups <> COALESCE(n.n, 0)`,
    [projectId, ...ids, projectId, ...ids, projectId, ...ids],
  )
}

export interface RollSum {
  readonly day: string
  readonly roll: string
  readonly clips: number
  readonly seconds: number
  readonly bytes: number
  readonly none: number
  readonly one: number
  readonly more: number
}

/** Rolls of a project, and how many of their clips have no verified backup, one, or more. */
export async function rollSums(db: EntityManager, projectId: string): Promise<RollSum[]> {
  const rows = (await db.query(
    `SELECT day, roll, COUNT(*) clips, SUM(seconds) seconds, SUM(size) bytes, SUM(backups = 0) none, SUM(backups = 1) one, SUM(backups > 1) more
     FROM clip WHERE projectId = ? AND removed = 0 GROUP BY day, roll`,
    [projectId],
  )) as Record<keyof RollSum, string>[]
  return rows.map((r) => ({
    day: r.day,
    roll: r.roll,
    clips: Number(r.clips),
    seconds: Number(r.seconds),
    bytes: Number(r.bytes),
    none: Number(r.none),
    one: Number(r.one),
    more: Number(r.more),
  }))
}
