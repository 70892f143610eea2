/** Settings that people change, each with the version it is in: a change names the one it saw. */
import type { EntityManager } from 'typeorm'
import { SettingEntity, type SettingRecord } from './entities.ts'

/** A setting and its version; `otherwise` and 0 where it was never set. */
export async function readSetting<T>(db: EntityManager, name: string, otherwise: T): Promise<{ value: T; version: number }> {
  const row = await db.getRepository(SettingEntity).findOneBy({ name })
  return row ? { value: row.value as T, version: row.version } : { value: otherwise, version: 0 }
}

/**
 * Sets a setting that is still in the version `seen`, or (null) in whatever version it is; its version moves on by one. False:
 * somebody else has set it meanwhile, and nothing was written.
 */
export async function writeSetting(db: EntityManager, name: string, value: SettingRecord['value'], seen: number | null): Promise<boolean> {
  const text = JSON.stringify(value)
  if (seen === null) {
    await db.query(`INSERT INTO setting (name, value, version) VALUES (?, ?, 1) ON DUPLICATE KEY UPDATE value = VALUES(value), version = version + 1`, [
      name,
      text,
    ])
    return true
  }
  const done = (await db.query(`UPDATE setting SET value = ?, version = version + 1 WHERE name = ? AND version = ?`, [text, name, seen])) as {
    affectedRows: number
  }
  if (done.affectedRows > 0 || seen !== 0) return done.affectedRows > 0
  const begun = (await db.query(`INSERT IGNORE INTO setting (name, value, version) VALUES (?, ?, 1)`, [name, text])) as { affectedRows: number }
  return begun.affectedRows > 0
}
