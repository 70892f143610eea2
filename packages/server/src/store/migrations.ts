/** The tables, step by step; a step that has run anywhere is never changed. */
import { hostname } from 'node:os'
import type { MigrationInterface, QueryRunner } from 'typeorm'

const options = 'ENGINE=InnoDB DEFAULT CHARSET=utf8mb4 COLLATE=utf8mb4_bin'

export class Start1764000000000 implements MigrationInterface {
  name = 'Start1764000000000'
  async up(q: QueryRunner): Promise<void> {
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
    for (const t of tables) await q.query(`CREATE TABLE ${t} ${options}`)
  }
  async down(q: QueryRunner): Promise<void> {
    for (const t of ['project', 'volume', 'clip', 'copy', 'cut', 'decision', 'change_log', 'task', 'pull', 'master', 'viewing', 'setting'])
      await q.query(`DROP TABLE ${t}`)
  }
}

/** What stands beside a clip, and what it is called. */
export class Described1764100000000 implements MigrationInterface {
  name = 'Described1764100000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE clip ADD beside longtext NOT NULL DEFAULT '[]', ADD described longtext NOT NULL DEFAULT '{}'`)
    await q.query(
      `CREATE TABLE listened (clipId char(36) PRIMARY KEY, projectId char(36) NOT NULL, peaks longtext NOT NULL, rates longtext NOT NULL, KEY ofProject (projectId)) ${options}`,
    )
    await q.query(`ALTER TABLE clip ADD startSource varchar(10) NOT NULL DEFAULT 'file'`)
    await q.query(`UPDATE clip SET startSource = 'none' WHERE start IS NULL`)
    await q.query(
      `UPDATE clip SET technical = JSON_SET(technical, '$.channelFiles', JSON_ARRAY(), '$.heard', NULL, '$.rotation', 0, '$.variable', JSON_EXTRACT('false', '$'))`,
    )
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`DROP TABLE listened`)
    await q.query(`ALTER TABLE clip DROP COLUMN beside, DROP COLUMN described, DROP COLUMN startSource`)
  }
}

/** Verified backups, file by file, and how many each clip has. */
export class Backups1764090000000 implements MigrationInterface {
  name = 'Backups1764090000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE backup (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, card varchar(500) NOT NULL, sourceVolumeId char(36) NOT NULL, sourcePath varbinary(4000) NOT NULL, placeVolumeId char(36) NOT NULL, placePath varbinary(4000) NOT NULL, once char(40) NOT NULL, state varchar(20) NOT NULL, files int NOT NULL, verified int NOT NULL, bytes double NOT NULL, readBack varchar(10) NOT NULL, problems longtext NOT NULL, checked longtext, made datetime(3) NOT NULL, UNIQUE KEY once (once), KEY ofProject (projectId)) ${options}`,
    )
    await q.query(
      `CREATE TABLE backup_file (backupId char(36) NOT NULL, sourceHash char(40) NOT NULL, placeHash char(40) NOT NULL, size double NOT NULL, verified boolean NOT NULL, PRIMARY KEY (backupId, sourceHash), KEY bySource (sourceHash), KEY byPlace (placeHash)) ${options}`,
    )
    await q.query(`ALTER TABLE clip ADD files int NOT NULL DEFAULT 1, ADD backups int NOT NULL DEFAULT 0`)
    await q.query(`UPDATE clip SET files = 2 WHERE JSON_TYPE(JSON_EXTRACT(technical, '$.sequence')) = 'OBJECT'`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE clip DROP COLUMN backups, DROP COLUMN files`)
    await q.query(`DROP TABLE backup_file`)
    await q.query(`DROP TABLE backup`)
  }
}

/** Volumes by what they are; a path is where a machine sees one. */
export class Volumes1764080000000 implements MigrationInterface {
  name = 'Volumes1764080000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE volume_path (volumeId char(36) NOT NULL, machine varchar(200) NOT NULL, path varbinary(4000) NOT NULL, PRIMARY KEY (volumeId, machine)) ${options}`,
    )
    await q.query(
      `CREATE TABLE place (volumeId char(36) NOT NULL, pathHash char(40) NOT NULL, path varbinary(4000) NOT NULL, pinned boolean NOT NULL, used datetime(3) NOT NULL, PRIMARY KEY (volumeId, pathHash)) ${options}`,
    )
    await q.query(
      `ALTER TABLE volume ADD kind varchar(20) NOT NULL DEFAULT 'path', ADD known_key varchar(300) NOT NULL DEFAULT '', ADD sub varbinary(4000) NOT NULL DEFAULT '', ADD identity char(40) NOT NULL DEFAULT '', ADD removable boolean NOT NULL DEFAULT 0`,
    )
    await q.query(`UPDATE volume SET known_key = ?, sub = path`, [hostname()])
    await q.query(`UPDATE volume SET identity = SHA1(CONCAT(kind, CHAR(0), known_key, CHAR(0), sub))`)
    await q.query(`INSERT INTO volume_path (volumeId, machine, path) SELECT id, ?, path FROM volume`, [hostname()])
    await q.query(`ALTER TABLE volume DROP KEY byPath, DROP COLUMN path, DROP COLUMN pathHash, ADD UNIQUE KEY byIdentity (identity)`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE volume ADD path varbinary(4000) NOT NULL DEFAULT '', ADD pathHash char(40) NOT NULL DEFAULT ''`)
    await q.query(`UPDATE volume v JOIN volume_path p ON p.volumeId = v.id SET v.path = p.path, v.pathHash = SHA1(p.path)`)
    await q.query(
      `ALTER TABLE volume DROP KEY byIdentity, DROP COLUMN kind, DROP COLUMN known_key, DROP COLUMN sub, DROP COLUMN identity, DROP COLUMN removable, ADD UNIQUE KEY byPath (pathHash)`,
    )
    await q.query(`DROP TABLE place`)
    await q.query(`DROP TABLE volume_path`)
  }
}

/** Numbers in a text at one width, so that take 10 stands after take 9; in small letters. */
const natural = (...columns: string[]): string =>
  `LOWER(CONCAT_WS(' ', ${columns.map((c) => `REGEXP_REPLACE(REGEXP_REPLACE(${c}, '([0-9]+)', '0000000000\\\\1'), '0*([0-9]{10})(?![0-9])', '\\\\1')`).join(', ')}))`
const inDescribed = (field: string): string => `COALESCE(JSON_VALUE(described, '$.${field}.value'), '')`

/** What people call clips by, as columns to sort, filter and search by (bytes are searched three times as fast as signs); ticks; what is a light copy; what changed on disk. */
export class Describe1764200000000 implements MigrationInterface {
  name = 'Describe1764200000000'
  async up(q: QueryRunner): Promise<void> {
    const told = ['scene', 'take', 'angle', 'camera'].map((f) => `ADD ${f} varchar(100) AS (JSON_VALUE(described, '$.${f}.value')) PERSISTENT`)
    await q.query(`UPDATE clip SET technical = JSON_SET(technical, '$.parts', JSON_ARRAY(), '$.raw', NULL)`)
    await q.query(
      `ALTER TABLE clip ADD ticked boolean NOT NULL DEFAULT 0, ADD lightOf char(36), ADD changedOn datetime(3), ADD gone boolean NOT NULL DEFAULT 0, ADD decode longtext, ${told.join(', ')},
        ADD plain varchar(300) AS (JSON_VALUE(described, '$.plain.value')) PERSISTENT,
        ADD codec varchar(100) AS (JSON_VALUE(technical, '$.codec')) PERSISTENT,
        ADD byScene varchar(600) AS (${natural(inDescribed('scene'), inDescribed('take'), 'place')}) PERSISTENT,
        ADD byDay varchar(600) AS (${natural('day', 'place')}) PERSISTENT,
        ADD byCamera varchar(600) AS (${natural(inDescribed('camera'), 'place')}) PERSISTENT,
        ADD searched varbinary(2600) AS (CONVERT(LEFT(LOWER(CONCAT_WS(' ', name, roll, reel, day, ${['scene', 'take', 'angle', 'camera', 'plain', 'notes'].map(inDescribed).join(', ')}, JSON_VALUE(technical, '$.codec'))), 650) USING binary)) PERSISTENT`,
    )
    await q.query(
      `CREATE TABLE look (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, name varchar(500) NOT NULL, kind varchar(10) NOT NULL, cube longtext NOT NULL, created datetime(3) NOT NULL, KEY ofProject (projectId)) ${options}`,
    )
    await q.query(
      `ALTER TABLE clip ADD KEY byScene (projectId, removed, byScene, id), ADD KEY byDay (projectId, removed, byDay, id), ADD KEY byCamera (projectId, removed, byCamera, id),
        ADD KEY searching (projectId, removed, searched), ADD KEY noticed (projectId, removed, noticeCodes),
        ${['roll', 'day', 'reel', 'scene', 'camera', 'codec', 'ticked', 'backups'].map((f) => `ADD KEY of_${f} (projectId, removed, ${f}, place)`).join(', ')}`,
    )
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`DROP TABLE look`)
    await q.query(
      `ALTER TABLE clip ${['byScene', 'byDay', 'byCamera', 'searching', 'noticed', ...['roll', 'day', 'reel', 'scene', 'camera', 'codec', 'ticked', 'backups'].map((f) => `of_${f}`)].map((k) => `DROP KEY ${k}`).join(', ')}`,
    )
    await q.query(
      `ALTER TABLE clip ${['searched', 'byScene', 'byDay', 'byCamera', 'codec', 'plain', 'scene', 'take', 'angle', 'camera', 'decode', 'gone', 'changedOn', 'lightOf', 'ticked'].map((c) => `DROP COLUMN ${c}`).join(', ')}`,
    )
  }
}

/** How loud each clip's sound is from moment to moment, to find one in another. */
export class Loud1764300000000 implements MigrationInterface {
  name = 'Loud1764300000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE listened ADD loud mediumblob`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE listened DROP COLUMN loud`)
  }
}

/** Specs that people make and change, their versions, what copies are, and the parts of pictures that they show. */
export class Specs1764400000000 implements MigrationInterface {
  name = 'Specs1764400000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE spec (code varchar(60) NOT NULL, version int NOT NULL, current boolean NOT NULL, removed boolean NOT NULL, spec longtext NOT NULL, made datetime(3) NOT NULL, who varchar(500) NOT NULL, PRIMARY KEY (code, version)) ${options}`,
    )
    await q.query(
      `ALTER TABLE copy ADD specVersion int NOT NULL DEFAULT 1, ADD specName varchar(100) NOT NULL DEFAULT '', ADD kind varchar(12) NOT NULL DEFAULT 'proxy', ADD facts longtext, ADD replaces boolean NOT NULL DEFAULT 0, ADD KEY bySpec (projectId, spec, state)`,
    )
    const before = [
      ['h264-proxy-720', 'H.264 proxy 720', 'proxy'],
      ['prores-proxy-1080', 'ProRes proxy 1080', 'proxy'],
      ['dnxhr-sq', 'DNxHR SQ intermediate', 'intermediate'],
    ]
    for (const [code, name, kind] of before) await q.query(`UPDATE copy SET specName = ?, kind = ? WHERE spec = ?`, [name, kind, code])
    await q.query(`ALTER TABLE clip ADD crop longtext, ADD lookId char(36)`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE clip DROP COLUMN lookId, DROP COLUMN crop`)
    await q.query(`ALTER TABLE copy DROP KEY bySpec, DROP COLUMN replaces, DROP COLUMN facts, DROP COLUMN kind, DROP COLUMN specName, DROP COLUMN specVersion`)
    await q.query(`DROP TABLE spec`)
  }
}

/** The order of tasks, by hand and by urgency; who set them going, and which machine has them. */
export class Turns1764500000000 implements MigrationInterface {
  name = 'Turns1764500000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `ALTER TABLE task ADD place double NOT NULL DEFAULT 0, ADD priority tinyint NOT NULL DEFAULT 0, ADD who varchar(200) NOT NULL DEFAULT '', ADD job varchar(80), ADD machine varchar(200), ADD heldAlone boolean NOT NULL DEFAULT 0, ADD KEY inLine (state, batchId, priority, place), ADD KEY byJob (job)`,
    )
    await q.query(`UPDATE task SET place = ord, priority = IF(kind = 'listen', -1, 0)`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(
      `ALTER TABLE task DROP KEY inLine, DROP KEY byJob, DROP COLUMN heldAlone, DROP COLUMN machine, DROP COLUMN job, DROP COLUMN who, DROP COLUMN priority, DROP COLUMN place`,
    )
  }
}

/** Copies are checked frame by frame, and can be of a part of their original; folders are looked after. */
export class Copies1764600000000 implements MigrationInterface {
  name = 'Copies1764600000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`UPDATE spec SET spec = JSON_SET(spec, '$.check', 'every-frame') WHERE JSON_EXTRACT(spec, '$.check') IS NULL`)
    await q.query(`ALTER TABLE task ADD needs varchar(400), ADD spent double NOT NULL DEFAULT 0, ADD KEY byNeeds (state, needs, batchId, priority, place)`)
    await q.query(
      `CREATE TABLE arrival_folder (id char(36) PRIMARY KEY, projectId char(36) NOT NULL, volumeId char(36) NOT NULL, path varbinary(4000) NOT NULL, active boolean NOT NULL, quiet int NOT NULL, copies longtext, KEY ofProject (projectId)) ${options}`,
    )
    await q.query(
      `CREATE TABLE arrival (ord int AUTO_INCREMENT PRIMARY KEY, folderId char(36) NOT NULL, at datetime(3) NOT NULL, path varchar(4000) NOT NULL, what varchar(2000) NOT NULL, good boolean NOT NULL, KEY ofFolder (folderId, ord)) ${options}`,
    )
    await q.query(
      `ALTER TABLE copy ADD rangeIn int, ADD rangeOut int, ADD part varchar(30) AS (CONCAT_WS('-', rangeIn, rangeOut)) PERSISTENT, DROP KEY once, ADD UNIQUE KEY once (clipId, spec, part)`,
    )
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE copy DROP KEY once, DROP COLUMN part, DROP COLUMN rangeOut, DROP COLUMN rangeIn, ADD UNIQUE KEY once (clipId, spec)`)
    await q.query(`ALTER TABLE task DROP KEY byNeeds, DROP COLUMN spent, DROP COLUMN needs`)
    await q.query(`DROP TABLE arrival`)
    await q.query(`DROP TABLE arrival_folder`)
    await q.query(`UPDATE spec SET spec = JSON_REMOVE(spec, '$.check')`)
  }
}

/** Finishing sources: what clips are finished from, and what pulls were made from. */
export class Finishing1764700000000 implements MigrationInterface {
  name = 'Finishing1764700000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE clip ADD finishing char(36)`)
    await q.query(`ALTER TABLE pull ADD source char(36)`)
    await q.query(`ALTER TABLE copy ADD KEY byState (state)`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE copy DROP KEY byState`)
    await q.query(`ALTER TABLE pull DROP COLUMN source`)
    await q.query(`ALTER TABLE clip DROP COLUMN finishing`)
  }
}

/** Turnovers: which cut list one follows, and what lists of them show without being read whole. */
export class Turnovers1764800000000 implements MigrationInterface {
  name = 'Turnovers1764800000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE cut ADD follows char(36), ADD summary longtext`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE cut DROP COLUMN summary, DROP COLUMN follows`)
  }
}

/** Fingerprints of clips. */
export class Prints1764900000000 implements MigrationInterface {
  name = 'Prints1764900000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE prints (clipId char(36) PRIMARY KEY, projectId char(36) NOT NULL, contentId varchar(100) NOT NULL, every int NOT NULL, prints mediumblob NOT NULL, KEY ofProject (projectId))`,
    )
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`DROP TABLE prints`)
  }
}

/** Where the light copies stand that a cut was cut from. */
export class CutCopies1765000000000 implements MigrationInterface {
  name = 'CutCopies1765000000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE cut ADD copiesVolumeId char(36), ADD copiesPath varchar(4000)`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE cut DROP COLUMN copiesPath, DROP COLUMN copiesVolumeId`)
  }
}

/** What of its clips are light copies: what a person said, and what their pictures have shown. */
export class LightProof1765100000000 implements MigrationInterface {
  name = 'LightProof1765100000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE clip ADD keptOriginal boolean NOT NULL DEFAULT 0, ADD lightVerdicts longtext`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE clip DROP COLUMN lightVerdicts, DROP COLUMN keptOriginal`)
  }
}

/** Where a project writes to, below which name the copies of a folder stand, and rolls that people give. */
export class Targets1765200000000 implements MigrationInterface {
  name = 'Targets1765200000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `CREATE TABLE target (projectId char(36) NOT NULL, purpose varchar(20) NOT NULL, volumeId char(36) NOT NULL, folderHash char(40) NOT NULL, folder varchar(4000) NOT NULL, used datetime(3) NOT NULL, PRIMARY KEY (projectId, purpose, volumeId, folderHash))`,
    )
    await q.query(
      `CREATE TABLE tree (projectId char(36) NOT NULL, tree_key varchar(400) NOT NULL, top varchar(400) NOT NULL, volumeId char(36) NOT NULL, path varbinary(4000) NOT NULL, PRIMARY KEY (projectId, tree_key))`,
    )
    await q.query(`ALTER TABLE arrival_folder ADD since datetime(3)`)
    await q.query(`ALTER TABLE clip ADD rollGiven boolean NOT NULL DEFAULT 0, ADD tree varchar(4000) NOT NULL DEFAULT ''`)
    // Copies of what was taken in before go on standing where they stand.
    await q.query(
      `UPDATE clip c JOIN volume v ON v.id = c.volumeId SET c.tree = CONCAT(v.label, IF(LOCATE('/', c.path), CONCAT('/', CONVERT(LEFT(c.path, LENGTH(c.path) - LOCATE('/', REVERSE(c.path))) USING utf8mb4)), ''))`,
    )
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE arrival_folder DROP COLUMN since`)
    await q.query(`ALTER TABLE clip DROP COLUMN tree, DROP COLUMN rollGiven`)
    await q.query(`DROP TABLE tree`)
    await q.query(`DROP TABLE target`)
  }
}

/** A row for each project that is changed by one at a time, and the version of every setting. */
export class Writers1765300000000 implements MigrationInterface {
  name = 'Writers1765300000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`CREATE TABLE writer (name char(36) PRIMARY KEY) ${options}`)
    await q.query(`ALTER TABLE setting ADD version int NOT NULL DEFAULT 0`)
    await q.query(`UPDATE setting SET version = JSON_VALUE(value, '$.version') WHERE name LIKE 'reconnect rules %'`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE setting DROP COLUMN version`)
    await q.query(`DROP TABLE writer`)
  }
}

/** Files that vanish from a volume that stays, not only folders; and what is looked for by folder. */
export class Gone1765400000000 implements MigrationInterface {
  name = 'Gone1765400000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(
      `ALTER TABLE clip MODIFY gone varchar(6) NOT NULL DEFAULT '', ADD formerNames longtext NOT NULL DEFAULT '[]', ADD KEY inFolder (volumeId, path(190))`,
    )
    await q.query(`UPDATE clip SET gone = IF(gone = '1', 'folder', '')`)
    await q.query(`ALTER TABLE copy ADD gone boolean NOT NULL DEFAULT 0, ADD KEY inFolder (volumeId, path(190))`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE copy DROP KEY inFolder, DROP COLUMN gone`)
    await q.query(`UPDATE clip SET gone = IF(gone = 'folder', '1', '0')`)
    await q.query(`ALTER TABLE clip DROP KEY inFolder, DROP COLUMN formerNames, MODIFY gone boolean NOT NULL DEFAULT 0`)
  }
}

/** The browser in which a change was made: each takes back its own. */
export class ChangedIn1765500000000 implements MigrationInterface {
  name = 'ChangedIn1765500000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE change_log ADD browser varchar(16) NOT NULL DEFAULT ''`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE change_log DROP COLUMN browser`)
  }
}

/** Folders that are looked after have versions, as whatever people change; those of removed projects go. */
export class LookedAfter1765600000000 implements MigrationInterface {
  name = 'LookedAfter1765600000000'
  async up(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE arrival_folder ADD version int NOT NULL DEFAULT 1`)
    await q.query(`DELETE FROM arrival_folder WHERE projectId NOT IN (SELECT id FROM project)`)
    await q.query(`DELETE FROM arrival WHERE folderId NOT IN (SELECT id FROM arrival_folder)`)
  }
  async down(q: QueryRunner): Promise<void> {
    await q.query(`ALTER TABLE arrival_folder DROP COLUMN version`)
  }
}

/** All of them, in their order. */
export const migrations = [
  Start1764000000000,
  Volumes1764080000000,
  Backups1764090000000,
  Described1764100000000,
  Describe1764200000000,
  Loud1764300000000,
  Specs1764400000000,
  Turns1764500000000,
  Copies1764600000000,
  Finishing1764700000000,
  Turnovers1764800000000,
  Prints1764900000000,
  CutCopies1765000000000,
  LightProof1765100000000,
  Targets1765200000000,
  Writers1765300000000,
  Gone1765400000000,
  ChangedIn1765500000000,
  LookedAfter1765600000000,
]
