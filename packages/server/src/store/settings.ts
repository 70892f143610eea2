/** Settings: each with the version it is in, and a change by a person names the one it saw. */
import { type EntityManager, Like } from 'typeorm'
import { type Setting, SettingEntity, settingName } from '../records/index.ts'

/** A setting and its version; what holds otherwise, and 0, where it was never set. */
export async function readSetting<T>(db: EntityManager, setting: Setting<T>, of: string): Promise<{ value: T; version: number }> {
  const row = await db.getRepository(SettingEntity).findOneBy({ name: settingName(setting, of) })
  return row ? { value: setting.document.of(row.value), version: row.version } : { value: setting.otherwise, version: 0 }
}

/** All settings of a kind, by whose they are. */
export async function everySetting<T>(db: EntityManager, setting: Setting<T>): Promise<Map<string, T>> {
  const rows = await db.getRepository(SettingEntity).findBy({ name: Like(`${setting.begin} %`) })
  return new Map(rows.map((r) => [r.name.slice(setting.begin.length + 1), setting.document.of(r.value)]))
}

/**
 * Sets a setting that is still in the version `seen`, or (null) in whatever version it is; its version moves on by one. False:
 * somebody else has set it meanwhile, and nothing was written.
 */
export async function writeSetting<T>(db: EntityManager, setting: Setting<T>, of: string, value: NoInfer<T>, seen: number | null): Promise<boolean> {
  const name = settingName(setting, of)
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

/** Forgets every setting of some project or cut. */
export async function forgetSettings(db: EntityManager, of: string): Promise<void> {
  await db.getRepository(SettingEntity).delete({ name: Like(`% ${of}%`) })
}
