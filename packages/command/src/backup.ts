/** `./naranja backup` and `./naranja verify`: verified backups of cards without the interface and without a project. */
import { access, constants, readdir, stat } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { type BackupOutcome, backUp, isRight, PlaceUnusable, type Verification, verify } from '@naranja/media/backup'
import { say, step, writeReport } from './base/index.ts'

const backupUsage = `./naranja backup --from DIR --to DIR [--to DIR ...] [--report FILE.json]

Makes in each place a folder with the card's name: every file copied, read back from the disk and compared, with an ASC MHL
history beside them. Nothing is written over, nothing on the card is changed. Run it again to go on where it was interrupted.

Exit: 0 every file is verified in every place, 2 something given can't be used, 4 a file could not be copied right,
      1 another failure, 130 interrupted.`
const verifyUsage = `./naranja verify DIR [DIR ...] [--report FILE.json]

Reads every file in a backup, or in all backups that stand in a folder, and compares it with the history beside it.

Exit: 0 all is as it was written, 2 something given can't be used, 4 something changed, is missing or is new,
      1 another failure, 130 interrupted.`

/** Something given cannot be used. */
class Unusable extends Error {}

async function folder(path: string, option: string): Promise<string> {
  const full = resolve(path)
  const s = await stat(full).catch((e: NodeJS.ErrnoException) => e)
  if (s instanceof Error)
    throw new Unusable(s.code === 'ENOENT' ? `The folder ${full} (${option}) is not there.` : `${full} (${option}) cannot be looked at: ${s.message}.`)
  if (!s.isDirectory()) throw new Unusable(`${full} (${option}) is not a folder.`)
  await access(full, constants.R_OK | constants.X_OK).catch(() => {
    throw new Unusable(`${full} (${option}) may not be read: permission denied.`)
  })
  return full
}

/** Runs `work` so that Ctrl-C ends it in order; returns its exit code. */
async function interruptible(work: (signal: AbortSignal) => Promise<number>): Promise<number> {
  const abort = new AbortController()
  const stop = () => abort.abort()
  process.on('SIGINT', stop)
  process.on('SIGTERM', stop)
  try {
    return await work(abort.signal)
  } catch (e) {
    if (abort.signal.aborted) {
      say('Interrupted. What is verified is kept; run the same command again to go on.')
      return 130
    }
    if (e instanceof Unusable || e instanceof PlaceUnusable) {
      say(e.message)
      return 2
    }
    throw e
  } finally {
    process.off('SIGINT', stop)
    process.off('SIGTERM', stop)
  }
}

function parse<T>(read: () => T, usage: string): T {
  try {
    return read()
  } catch (e) {
    throw new Unusable(`${e instanceof Error ? e.message : e}\n\n${usage}`)
  }
}

const megabytes = (n: number): string => `${(n / 1e6).toFixed(n < 1e8 ? 1 : 0)} MB`
const percent = (done: number, total: number): string => `${total ? Math.floor((100 * done) / total) : 100} %`
const files = (n: number): string => (n === 1 ? '1 file' : `${n.toLocaleString('en')} files`)

/** Where a report goes must be usable before hours of work, not after. */
async function reportPlace(path: string | undefined): Promise<string | null> {
  if (path === undefined) return null
  await folder(join(resolve(path), '..'), '--report')
  return resolve(path)
}

/** The report of a backup: `format: 1`. Paths are relative to the card. */
export function backupReport(from: string, outcome: BackupOutcome, began: Date, ended: Date): object {
  return {
    format: 1,
    from,
    card: outcome.card,
    complete: outcome.complete,
    began: began.toISOString(),
    ended: ended.toISOString(),
    places: outcome.places,
    files: outcome.files.map((f) => ({
      path: f.path.toString('utf8'),
      size: f.size,
      xxh64: f.digest,
      places: f.places.map((p) => p ?? 'verified'),
      problem: f.problem,
    })),
    leftOut: outcome.leftOut,
    lists: outcome.lists,
    problems: outcome.problems,
    remarks: outcome.remarks,
  }
}

/** What went wrong, one line for each file; several places of one file with one reason are one line. */
function faultsOf(outcome: BackupOutcome): { readonly path: string; readonly line: string }[] {
  return outcome.files.flatMap((f) => {
    const lines = f.problem === null ? [] : [f.problem]
    for (const [i, p] of f.places.entries()) if (p !== null && p !== f.problem) lines.push(`${outcome.places[i]?.folder}: ${p}`)
    const path = f.path.toString('utf8')
    return lines.map((l) => ({ path, line: `${path}: ${l}` }))
  })
}

export const backup = (args: readonly string[]): Promise<number> =>
  interruptible(async (signal) => {
    const { values } = parse(
      () =>
        parseArgs({
          args: [...args],
          options: { from: { type: 'string', multiple: true }, to: { type: 'string', multiple: true }, report: { type: 'string' }, help: { type: 'boolean' } },
        }),
      backupUsage,
    )
    if (values.help) {
      process.stdout.write(`${backupUsage}\n`)
      return 0
    }
    if (values.from?.length !== 1)
      throw new Unusable(`--from is ${values.from ? 'given more than once' : 'missing'}: the card, or the folder, to back up.\n\n${backupUsage}`)
    if (!values.to?.length) throw new Unusable(`--to is missing: the place the backup goes to.\n\n${backupUsage}`)
    const from = await folder(values.from[0] as string, '--from')
    const to = await Promise.all(values.to.map((t) => folder(t, '--to')))
    const report = await reportPlace(values.report)
    const began = new Date()
    const outcome = await backUp(
      Buffer.from(from),
      to.map((t) => Buffer.from(t)),
      { signal, onProgress: (done, total) => step(`${percent(done, total)} of ${megabytes(total)} read and read back`) },
    )
    const ended = new Date()
    if (report) await writeReport(report, backupReport(from, outcome, began, ended))
    for (const r of outcome.remarks) say(r)
    for (const p of outcome.problems) say(p)
    const faults = faultsOf(outcome)
    for (const f of faults) say(f.line)
    for (const l of outcome.lists) say(`Compared with ${l.path} on the card, which names ${files(l.files)}.`)
    if (outcome.leftOut.length) say(`Left out: ${outcome.leftOut.map((l) => `${l.path} (${l.reason})`).join(', ')}.`)
    for (const p of outcome.places)
      process.stdout.write(
        `${p.folder}: ${p.verified} of ${files(outcome.files.length)} verified, ${megabytes(p.bytes)}${p.readBack === 'disk' ? ', read back from the disk' : ''}.\n`,
      )
    if (outcome.complete) return 0
    say(
      `${outcome.card} is not safe yet: ${files(new Set(faults.map((f) => f.path)).size)} could not be backed up right${outcome.problems.length ? ', and the card has problems' : ''}. The lines above name them; run the same command again once the cause is gone.`,
    )
    return 4
  })

/** The backups that stand in `dir`: itself, or the folders in it that have a history. */
async function backupsIn(dir: string): Promise<{ path: string; without: string[] }[]> {
  const has = (p: string) =>
    stat(join(p, 'ascmhl', 'ascmhl_chain.xml')).then(
      () => true,
      () => false,
    )
  if (await has(dir)) return [{ path: dir, without: [] }]
  const found: { path: string; without: string[] }[] = []
  const without: string[] = []
  for (const e of await readdir(dir, { withFileTypes: true })) {
    if (!e.isDirectory()) continue
    if (await has(join(dir, e.name))) found.push({ path: join(dir, e.name), without: [] })
    else without.push(e.name)
  }
  if (found.length === 0) throw new Unusable(`${dir} has no history (ascmhl) and neither has a folder in it, so there is nothing to compare with.`)
  found[0]?.without.push(...without)
  return found
}

export const verifyCommand = (args: readonly string[]): Promise<number> =>
  interruptible(async (signal) => {
    const { values, positionals } = parse(
      () => parseArgs({ args: [...args], allowPositionals: true, options: { report: { type: 'string' }, help: { type: 'boolean' } } }),
      verifyUsage,
    )
    if (values.help) {
      process.stdout.write(`${verifyUsage}\n`)
      return 0
    }
    if (positionals.length === 0) throw new Unusable(`The folder to verify is missing.\n\n${verifyUsage}`)
    const report = await reportPlace(values.report)
    const results: Verification[] = []
    const folders = (await Promise.all(positionals.map(async (p) => backupsIn(await folder(p, 'DIR'))))).flat()
    for (const f of folders) {
      const v = await verify(Buffer.from(f.path), {
        signal,
        onProgress: (done, total) => step(`${f.path}: ${percent(done, total)} of ${megabytes(total)} read`),
      })
      if (!v) throw new Unusable(`${f.path} has no history any more.`)
      results.push(v)
      for (const p of v.problems) say(`${v.folder}: ${p}`)
      for (const c of v.changed) say(`${v.folder}: ${c.path} changed: ${c.reason}.`)
      for (const m of v.missing) say(`${v.folder}: ${m} is missing.`)
      for (const a of v.added) say(`${v.folder}: ${a} is new.`)
      for (const u of v.unnamed) say(`${v.folder}: ${u} has a name that no hash list can hold; nothing is known of it.`)
      if (f.without.length) say(`Not looked at, for they have no history: ${f.without.join(', ')}.`)
      process.stdout.write(
        isRight(v)
          ? `${v.folder}: all ${files(v.right)} are as they were written.\n`
          : `${v.folder}: ${files(v.right)} right, ${v.changed.length} changed, ${v.missing.length} missing, ${v.added.length} new.\n`,
      )
    }
    if (report) await writeReport(report, { format: 1, right: results.every(isRight), places: results })
    return results.every(isRight) ? 0 : 4
  })
