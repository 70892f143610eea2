/**
 * The tables, step by step; what a step leads to is never changed once it has run anywhere. Every statement may run again after it has run: a step that
 * ended in the middle (a full disk, a killed process) is begun again from its first statement. There is no way back but a save: `upgrade.ts`.
 */
import { hostname } from 'node:os'
import type { QueryRunner } from 'typeorm'

export interface Step {
  /** As it stands in the table of steps that were gone: a word and a number that grows. */
  readonly name: string
  /** The versions to which it brings documents, by their names (`records`). */
  readonly leadsTo?: Readonly<Record<string, number>>
  up(q: Pick<QueryRunner, 'query'>): Promise<void>
}

const options = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin'

const start: Step = {
  name: 'Start1764000000000',
  async up(q) {
    const tables = [
      `project (id char(36) PRIMARY KEY, name varchar(500) NOT NULL, rateNum int NOT NULL, rateDen int NOT NULL, width int NOT NULL, height int NOT NULL, rateChosen boolean NOT NULL, version int NOT NULL, created datetime(3) NOT NULL)`,
      `volume (id char(36) PRIMARY KEY, label varchar(500) NOT NULL, path varbinary(4000) NOT NULL, pathHash char(40) NOT NULL, created datetime(3) NOT NULL, UNIQUE KEY byPath (pathHash))`,
      `clip (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, volumeId char(36) NOT NULL, path varbinary(4000) NOT NULL, pathHash char(40) NOT NULL, name varchar(300) NOT NULL, place varchar(400) NOT NULL, roll varchar(100) NOT NULL, day varchar(100) NOT NULL, reel varchar(200), reelSource varchar(10) NOT NULL, start int, frames int NOT NULL, seconds double NOT NULL, size double NOT NULL, modified datetime(3) NOT NULL, contentId varchar(80) NOT NULL, technical longtext NOT NULL, notices longtext NOT NULL, noticeCodes varchar(500) NOT NULL, removed boolean NOT NULL,
        UNIQUE KEY once (projectId, pathHash), KEY byPlace (projectId, removed, place, id), KEY byName (projectId, removed, name, id), KEY byStart (projectId, removed, start, id), KEY byFrames (projectId, removed, frames, id), KEY onVolume (volumeId), KEY byContent (contentId))`,
      `copy (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, clipId char(36) NOT NULL, spec varchar(60) NOT NULL, volumeId char(36) NOT NULL, path varchar(4000) NOT NULL, state varchar(20) NOT NULL, size double NOT NULL, report longtext, UNIQUE KEY once (clipId, spec), KEY ofProject (projectId))`,
      `cut (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, name varchar(500) NOT NULL, cut longtext NOT NULL, problems longtext NOT NULL, files longtext NOT NULL, hash char(40) NOT NULL, sourceCount varchar(10) NOT NULL, referenceVolumeId char(36), referencePath varchar(4000), created datetime(3) NOT NULL, removed boolean NOT NULL, KEY ofProject (projectId, removed))`,
      `decision (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, eventKey char(40) NOT NULL, decision longtext NOT NULL, UNIQUE KEY once (projectId, eventKey))`,
      `change_log (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, ord int NOT NULL AUTO_INCREMENT UNIQUE, who varchar(500) NOT NULL, at datetime(3) NOT NULL, sentence varchar(1000) NOT NULL, inverse longtext NOT NULL, undone boolean NOT NULL, KEY ofProject (projectId, ord))`,
      `task (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, batchId char(36) NOT NULL, batchLabel varchar(500) NOT NULL, kind varchar(20) NOT NULL, label varchar(500) NOT NULL, state varchar(12) NOT NULL, payload longtext NOT NULL, done double NOT NULL, total double NOT NULL, unit varchar(20) NOT NULL, cost double NOT NULL, error varchar(2000) NOT NULL, command text NOT NULL, message varchar(2000) NOT NULL, result longtext NOT NULL, attempts int NOT NULL, created datetime(3) NOT NULL, started datetime(3), ended datetime(3), ord int NOT NULL AUTO_INCREMENT UNIQUE, KEY ofBatch (batchId), KEY ofProject (projectId, ord), KEY byState (state))`,
      `pull (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, cutId char(36) NOT NULL, clipId char(36) NOT NULL, frame_in int NOT NULL, frame_out int NOT NULL, volumeId char(36) NOT NULL, path varchar(4000) NOT NULL, state varchar(20) NOT NULL, report longtext, KEY ofCut (cutId))`,
      `master (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, cutId char(36) NOT NULL, volumeId char(36) NOT NULL, path varchar(4000) NOT NULL, state varchar(20) NOT NULL, width int NOT NULL, height int NOT NULL, report longtext, created datetime(3) NOT NULL, KEY ofProject (projectId))`,
      `viewing (projectId char(36) NOT NULL, who varchar(100) NOT NULL, viewing varchar(20) NOT NULL, PRIMARY KEY (projectId, who))`,
      `setting (name varchar(100) PRIMARY KEY, value longtext NOT NULL)`,
    ]
    for (const t of tables) await q.query(`CREATE TABLE IF NOT EXISTS ${t} ${options}`)
  },
}

/** What stands beside a clip, and what it is called. */
const described: Step = {
  name: 'Described1764100000000',
  async up(q) {
    await q.query(
      `ALTER TABLE clip ADD COLUMN IF NOT EXISTS beside longtext NOT NULL DEFAULT '[]', ADD COLUMN IF NOT EXISTS described longtext NOT NULL DEFAULT '{}'`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS listened (clipId char(36) PRIMARY KEY, projectId char(36) NOT NULL, peaks longtext NOT NULL, rates longtext NOT NULL, KEY ofProject (projectId)) ${options}`,
    )
    await q.query(`ALTER TABLE clip ADD COLUMN IF NOT EXISTS startSource varchar(10) NOT NULL DEFAULT 'file'`)
    await q.query(`UPDATE clip SET startSource = 'none' WHERE start IS NULL`)
    await q.query(
      `UPDATE clip SET technical = JSON_SET(technical, '$.channelFiles', JSON_ARRAY(), '$.heard', NULL, '$.rotation', 0, '$.variable', JSON_EXTRACT('false', '$'))`,
    )
  },
}

/** Verified backups, file by file, and how many each clip has. */
const backups: Step = {
  name: 'Backups1764090000000',
  async up(q) {
    await q.query(
      `CREATE TABLE IF NOT EXISTS backup (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, card varchar(500) NOT NULL, sourceVolumeId char(36) NOT NULL, sourcePath varbinary(4000) NOT NULL, placeVolumeId char(36) NOT NULL, placePath varbinary(4000) NOT NULL, once char(40) NOT NULL, state varchar(20) NOT NULL, files int NOT NULL, verified int NOT NULL, bytes double NOT NULL, readBack varchar(10) NOT NULL, problems longtext NOT NULL, checked longtext, made datetime(3) NOT NULL, UNIQUE KEY once (once), KEY ofProject (projectId)) ${options}`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS backup_file (backupId char(36) NOT NULL, sourceHash char(40) NOT NULL, placeHash char(40) NOT NULL, size double NOT NULL, verified boolean NOT NULL, PRIMARY KEY (backupId, sourceHash), KEY bySource (sourceHash), KEY byPlace (placeHash)) ${options}`,
    )
    await q.query(`ALTER TABLE clip ADD COLUMN IF NOT EXISTS files int NOT NULL DEFAULT 1, ADD COLUMN IF NOT EXISTS backups int NOT NULL DEFAULT 0`)
    await q.query(`UPDATE clip SET files = 2 WHERE JSON_TYPE(JSON_EXTRACT(technical, '$.sequence')) = 'OBJECT'`)
  },
}

/** Volumes by what they are; a path is where a machine sees one. */
const volumes: Step = {
  name: 'Volumes1764080000000',
  async up(q) {
    await q.query(
      `CREATE TABLE IF NOT EXISTS volume_path (volumeId char(36) NOT NULL, machine varchar(200) NOT NULL, path varbinary(4000) NOT NULL, PRIMARY KEY (volumeId, machine)) ${options}`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS place (volumeId char(36) NOT NULL, pathHash char(40) NOT NULL, path varbinary(4000) NOT NULL, pinned boolean NOT NULL, used datetime(3) NOT NULL, PRIMARY KEY (volumeId, pathHash)) ${options}`,
    )
    await q.query(
      `ALTER TABLE volume ADD COLUMN IF NOT EXISTS kind varchar(20) NOT NULL DEFAULT 'path', ADD COLUMN IF NOT EXISTS known_key varchar(300) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS sub varbinary(4000) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS identity char(40) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS removable boolean NOT NULL DEFAULT 0`,
    )
    if (((await q.query(`SHOW COLUMNS FROM volume LIKE 'path'`)) as unknown[]).length > 0) {
      await q.query(`UPDATE volume SET known_key = ?, sub = path`, [hostname()])
      await q.query(`INSERT IGNORE INTO volume_path (volumeId, machine, path) SELECT id, ?, path FROM volume`, [hostname()])
    }
    await q.query(`UPDATE volume SET identity = SHA1(CONCAT(kind, CHAR(0), known_key, CHAR(0), sub))`)
    await q.query(
      `ALTER TABLE volume DROP KEY IF EXISTS byPath, DROP COLUMN IF EXISTS path, DROP COLUMN IF EXISTS pathHash, ADD UNIQUE KEY IF NOT EXISTS byIdentity (identity)`,
    )
  },
}

/** Numbers in a text at one width, so that take 10 stands after take 9; in small letters. */
const natural = (...columns: string[]): string =>
  `LOWER(CONCAT_WS(' ', ${columns.map((c) => `REGEXP_REPLACE(REGEXP_REPLACE(${c}, '([0-9]+)', '0000000000\\\\1'), '0*([0-9]{10})(?![0-9])', '\\\\1')`).join(', ')}))`
const inDescribed = (field: string): string => `COALESCE(JSON_VALUE(described, '$.${field}.value'), '')`

/** What people call clips by, as columns to sort, filter and search by (bytes are searched three times as fast as signs); ticks; what is a light copy; what changed on disk. */
const describe: Step = {
  name: 'Describe1764200000000',
  async up(q) {
    const told = ['scene', 'take', 'angle', 'camera'].map(
      (f) => `ADD COLUMN IF NOT EXISTS ${f} varchar(100) AS (JSON_VALUE(described, '$.${f}.value')) PERSISTENT`,
    )
    await q.query(`UPDATE clip SET technical = JSON_SET(technical, '$.parts', JSON_ARRAY(), '$.raw', NULL)`)
    await q.query(
      `ALTER TABLE clip ADD COLUMN IF NOT EXISTS ticked boolean NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS lightOf char(36), ADD COLUMN IF NOT EXISTS changedOn datetime(3), ADD COLUMN IF NOT EXISTS gone boolean NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS decode longtext, ${told.join(', ')},
        ADD COLUMN IF NOT EXISTS plain varchar(300) AS (JSON_VALUE(described, '$.plain.value')) PERSISTENT,
        ADD COLUMN IF NOT EXISTS codec varchar(100) AS (JSON_VALUE(technical, '$.codec')) PERSISTENT,
        ADD COLUMN IF NOT EXISTS byScene varchar(600) AS (${natural(inDescribed('scene'), inDescribed('take'), 'place')}) PERSISTENT,
        ADD COLUMN IF NOT EXISTS byDay varchar(600) AS (${natural('day', 'place')}) PERSISTENT,
        ADD COLUMN IF NOT EXISTS byCamera varchar(600) AS (${natural(inDescribed('camera'), 'place')}) PERSISTENT,
        ADD COLUMN IF NOT EXISTS searched varbinary(2600) AS (CONVERT(LEFT(LOWER(CONCAT_WS(' ', name, roll, reel, day, ${['scene', 'take', 'angle', 'camera', 'plain', 'notes'].map(inDescribed).join(', ')}, JSON_VALUE(technical, '$.codec'))), 650) USING binary)) PERSISTENT`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS look (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, name varchar(500) NOT NULL, kind varchar(10) NOT NULL, cube longtext NOT NULL, created datetime(3) NOT NULL, KEY ofProject (projectId)) ${options}`,
    )
    await q.query(
      `ALTER TABLE clip ADD KEY IF NOT EXISTS byScene (projectId, removed, byScene, id), ADD KEY IF NOT EXISTS byDay (projectId, removed, byDay, id), ADD KEY IF NOT EXISTS byCamera (projectId, removed, byCamera, id),
        ADD KEY IF NOT EXISTS searching (projectId, removed, searched), ADD KEY IF NOT EXISTS noticed (projectId, removed, noticeCodes),
        ${['roll', 'day', 'reel', 'scene', 'camera', 'codec', 'ticked', 'backups'].map((f) => `ADD KEY IF NOT EXISTS of_${f} (projectId, removed, ${f}, place)`).join(', ')}`,
    )
  },
}

/** How loud each clip's sound is from moment to moment, to find one in another. */
const loud: Step = {
  name: 'Loud1764300000000',
  async up(q) {
    await q.query(`ALTER TABLE listened ADD COLUMN IF NOT EXISTS loud mediumblob`)
  },
}

/** Specs that people make and change, their versions, what copies are, and the parts of pictures that they show. */
const specs: Step = {
  name: 'Specs1764400000000',
  async up(q) {
    await q.query(
      `CREATE TABLE IF NOT EXISTS spec (code varchar(60) NOT NULL, version int NOT NULL, current boolean NOT NULL, removed boolean NOT NULL, spec longtext NOT NULL, made datetime(3) NOT NULL, who varchar(500) NOT NULL, PRIMARY KEY (code, version)) ${options}`,
    )
    await q.query(
      `ALTER TABLE copy ADD COLUMN IF NOT EXISTS specVersion int NOT NULL DEFAULT 1, ADD COLUMN IF NOT EXISTS specName varchar(100) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS kind varchar(12) NOT NULL DEFAULT 'proxy', ADD COLUMN IF NOT EXISTS facts longtext, ADD COLUMN IF NOT EXISTS replaces boolean NOT NULL DEFAULT 0, ADD KEY IF NOT EXISTS bySpec (projectId, spec, state)`,
    )
    const before = [
      ['h264-proxy-720', 'H.264 proxy 720', 'proxy'],
      ['prores-proxy-1080', 'ProRes proxy 1080', 'proxy'],
      ['dnxhr-sq', 'DNxHR SQ intermediate', 'intermediate'],
    ]
    for (const [code, name, kind] of before) await q.query(`UPDATE copy SET specName = ?, kind = ? WHERE spec = ?`, [name, kind, code])
    await q.query(`ALTER TABLE clip ADD COLUMN IF NOT EXISTS crop longtext, ADD COLUMN IF NOT EXISTS lookId char(36)`)
  },
}

/** The order of tasks, by hand and by urgency; who set them going, and which machine has them. */
const turns: Step = {
  name: 'Turns1764500000000',
  async up(q) {
    await q.query(
      `ALTER TABLE task ADD COLUMN IF NOT EXISTS place double NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS priority tinyint NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS who varchar(200) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS job varchar(80), ADD COLUMN IF NOT EXISTS machine varchar(200), ADD COLUMN IF NOT EXISTS heldAlone boolean NOT NULL DEFAULT 0, ADD KEY IF NOT EXISTS inLine (state, batchId, priority, place), ADD KEY IF NOT EXISTS byJob (job)`,
    )
    await q.query(`UPDATE task SET place = ord, priority = IF(kind = 'listen', -1, 0)`)
  },
}

/** Copies are checked frame by frame, and can be of a part of their original; folders are looked after. */
const copies: Step = {
  name: 'Copies1764600000000',
  async up(q) {
    await q.query(`UPDATE spec SET spec = JSON_SET(spec, '$.check', 'every-frame') WHERE JSON_EXTRACT(spec, '$.check') IS NULL`)
    await q.query(
      `ALTER TABLE task ADD COLUMN IF NOT EXISTS needs varchar(400), ADD COLUMN IF NOT EXISTS spent double NOT NULL DEFAULT 0, ADD KEY IF NOT EXISTS byNeeds (state, needs, batchId, priority, place)`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS arrival_folder (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, volumeId char(36) NOT NULL, path varbinary(4000) NOT NULL, active boolean NOT NULL, quiet int NOT NULL, copies longtext, KEY ofProject (projectId)) ${options}`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS arrival (ord int AUTO_INCREMENT PRIMARY KEY, folderId char(36) NOT NULL, at datetime(3) NOT NULL, path varchar(4000) NOT NULL, what varchar(2000) NOT NULL, good boolean NOT NULL, KEY ofFolder (folderId, ord)) ${options}`,
    )
    await q.query(
      `ALTER TABLE copy ADD COLUMN IF NOT EXISTS rangeIn int, ADD COLUMN IF NOT EXISTS rangeOut int, ADD COLUMN IF NOT EXISTS part varchar(30) AS (CONCAT_WS('-', rangeIn, rangeOut)) PERSISTENT, DROP KEY IF EXISTS once, ADD UNIQUE KEY once (clipId, spec, part)`,
    )
  },
}

/** Finishing sources: what clips are finished from, and what pulls were made from. */
const finishing: Step = {
  name: 'Finishing1764700000000',
  async up(q) {
    await q.query(`ALTER TABLE clip ADD COLUMN IF NOT EXISTS finishing char(36)`)
    await q.query(`ALTER TABLE pull ADD COLUMN IF NOT EXISTS source char(36)`)
    await q.query(`ALTER TABLE copy ADD KEY IF NOT EXISTS byState (state)`)
  },
}

/** Turnovers: which cut list one follows, and what lists of them show without being read whole. */
const turnovers: Step = {
  name: 'Turnovers1764800000000',
  async up(q) {
    await q.query(`ALTER TABLE cut ADD COLUMN IF NOT EXISTS follows char(36), ADD COLUMN IF NOT EXISTS summary longtext`)
  },
}

/** Fingerprints of clips. */
const prints: Step = {
  name: 'Prints1764900000000',
  async up(q) {
    await q.query(
      `CREATE TABLE IF NOT EXISTS prints (clipId char(36) PRIMARY KEY, projectId char(36) NOT NULL, contentId varchar(100) NOT NULL, every int NOT NULL, prints mediumblob NOT NULL, KEY ofProject (projectId))`,
    )
  },
}

/** Where the light copies stand that a cut was cut from. */
const cutCopies: Step = {
  name: 'CutCopies1765000000000',
  async up(q) {
    await q.query(`ALTER TABLE cut ADD COLUMN IF NOT EXISTS copiesVolumeId char(36), ADD COLUMN IF NOT EXISTS copiesPath varchar(4000)`)
  },
}

/** What of its clips are light copies: what a person said, and what their pictures have shown. */
const lightProof: Step = {
  name: 'LightProof1765100000000',
  async up(q) {
    await q.query(`ALTER TABLE clip ADD COLUMN IF NOT EXISTS keptOriginal boolean NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS lightVerdicts longtext`)
  },
}

/** Where a project writes to, below which name the copies of a folder stand, and rolls that people give. */
const targets: Step = {
  name: 'Targets1765200000000',
  async up(q) {
    await q.query(
      `CREATE TABLE IF NOT EXISTS target (projectId char(36) NOT NULL, purpose varchar(20) NOT NULL, volumeId char(36) NOT NULL, folderHash char(40) NOT NULL, folder varchar(4000) NOT NULL, used datetime(3) NOT NULL, PRIMARY KEY (projectId, purpose, volumeId, folderHash))`,
    )
    await q.query(
      `CREATE TABLE IF NOT EXISTS tree (projectId char(36) NOT NULL, tree_key varchar(400) NOT NULL, top varchar(400) NOT NULL, volumeId char(36) NOT NULL, path varbinary(4000) NOT NULL, PRIMARY KEY (projectId, tree_key))`,
    )
    await q.query(`ALTER TABLE arrival_folder ADD COLUMN IF NOT EXISTS since datetime(3)`)
    await q.query(
      `ALTER TABLE clip ADD COLUMN IF NOT EXISTS rollGiven boolean NOT NULL DEFAULT 0, ADD COLUMN IF NOT EXISTS tree varchar(4000) NOT NULL DEFAULT ''`,
    )
    // Copies of what was taken in before go on standing where they stand.
    await q.query(
      `UPDATE clip c JOIN volume v ON v.id = c.volumeId SET c.tree = CONCAT(v.label, IF(LOCATE('/', c.path), CONCAT('/', CONVERT(LEFT(c.path, LENGTH(c.path) - LOCATE('/', REVERSE(c.path))) USING utf8mb4)), ''))`,
    )
  },
}

/** A row for each project that is changed by one at a time, and the version of every setting. */
const writers: Step = {
  name: 'Writers1765300000000',
  async up(q) {
    await q.query(`CREATE TABLE IF NOT EXISTS writer (name char(36) PRIMARY KEY) ${options}`)
    await q.query(`ALTER TABLE setting ADD COLUMN IF NOT EXISTS version int NOT NULL DEFAULT 0`)
    await q.query(`UPDATE setting SET version = JSON_VALUE(value, '$.version') WHERE name LIKE 'reconnect rules %'`)
  },
}

/** Files that vanish from a volume that stays, not only folders; and what is looked for by folder. */
const gone: Step = {
  name: 'Gone1765400000000',
  async up(q) {
    await q.query(
      `ALTER TABLE clip MODIFY gone varchar(6) NOT NULL DEFAULT '', ADD COLUMN IF NOT EXISTS formerNames longtext NOT NULL DEFAULT '[]', ADD KEY IF NOT EXISTS inFolder (volumeId, path(190))`,
    )
    await q.query(`UPDATE clip SET gone = IF(gone IN ('1', 'folder'), 'folder', '')`)
    await q.query(`ALTER TABLE copy ADD COLUMN IF NOT EXISTS gone boolean NOT NULL DEFAULT 0, ADD KEY IF NOT EXISTS inFolder (volumeId, path(190))`)
  },
}

/** The browser in which a change was made: each takes back its own. */
const changedIn: Step = {
  name: 'ChangedIn1765500000000',
  async up(q) {
    await q.query(`ALTER TABLE change_log ADD COLUMN IF NOT EXISTS browser varchar(16) NOT NULL DEFAULT ''`)
  },
}

/** Folders that are looked after have versions, as whatever people change; those of removed projects go. */
const lookedAfter: Step = {
  name: 'LookedAfter1765600000000',
  async up(q) {
    await q.query(`ALTER TABLE arrival_folder ADD COLUMN IF NOT EXISTS version int NOT NULL DEFAULT 1`)
    await q.query(`DELETE FROM arrival_folder WHERE projectId NOT IN (SELECT id FROM project)`)
    await q.query(`DELETE FROM arrival WHERE folderId NOT IN (SELECT id FROM arrival_folder)`)
  },
}

/** What is kept as JSON has the shapes that `records` writes down, in their first versions; what nothing reads any more goes, and what removed projects left. */
const documents: Step = {
  name: 'Documents1765700000000',
  async up(q) {
    await q.query(
      `UPDATE task SET payload = JSON_SET(JSON_REMOVE(payload, '$.copyId'), '$.copyIds', JSON_ARRAY(JSON_VALUE(payload, '$.copyId'))) WHERE kind = 'copy' AND JSON_VALUE(payload, '$.copyId') IS NOT NULL`,
    )
    await q.query(`DELETE FROM setting WHERE name LIKE 'speed %'`)
    await q.query(`DELETE FROM prints WHERE projectId NOT IN (SELECT id FROM project)`)
    for (const begin of ['seen', 'likeness'])
      await q.query(`DELETE FROM setting WHERE name LIKE '${begin} %' AND SUBSTRING(name, ${begin.length + 2}) NOT IN (SELECT id FROM cut)`)
  },
}

/** Why a task failed, as a code beside its sentence. */
const faults: Step = {
  name: 'Faults1765800000000',
  async up(q) {
    await q.query(`ALTER TABLE task ADD COLUMN IF NOT EXISTS fault varchar(10) NOT NULL DEFAULT ''`)
    await q.query(`UPDATE task SET fault = 'own-room' WHERE state = 'failed' AND error LIKE 'The disk of Naranja''s own data is full%'`)
    await q.query(
      `UPDATE task SET fault = 'damaged' WHERE state = 'failed' AND kind = 'copy' AND error LIKE '% is damaged: a frame of it cannot be decoded. Copy it again from the card.'`,
    )
  },
}

/** Every order that a list can have goes by an index. */
const bySize: Step = {
  name: 'BySize1765900000000',
  async up(q) {
    await q.query(`ALTER TABLE clip ADD KEY IF NOT EXISTS bySize (projectId, removed, size, id)`)
  },
}

/** All of them, in their order. */
export const steps: readonly Step[] = [
  start,
  volumes,
  backups,
  described,
  describe,
  loud,
  specs,
  turns,
  copies,
  finishing,
  turnovers,
  prints,
  cutCopies,
  lightProof,
  targets,
  writers,
  gone,
  changedIn,
  lookedAfter,
  documents,
  faults,
  bySize,
]
