/** `./naranja job`: the whole job without the interface, through the same API. */
import { mkdir, readFile } from 'node:fs/promises'
import { basename, dirname, join, resolve } from 'node:path'
import { isDeepStrictEqual } from 'node:util'
import {
  type ClipPage,
  type ClipRow,
  type CutDetail,
  type ProjectRow,
  SpecDraft,
  Started,
  type TargetFolder,
  type TaskRow,
  type TypedPlace,
} from '@naranja/contract'
import { isOpen } from '@naranja/core/reconnect'
import { formatFrames, rateFraction } from '@naranja/core/time'
import { writeWhole } from '@naranja/media'
import { z } from 'zod'
import { ApiError, Client } from '../client/index.ts'
import { during, Instance, instanceFolder, passing } from '../instance/index.ts'
import { say, writeReport } from '../base/index.ts'
import { usage, Unusable, type Options, readOptions } from './options.ts'
import { type Report, type Out, terminal } from './report.ts'

class Run {
  readonly report: Report = { format: 1, events: [], problems: [], clips: [], copies: [], pulls: [], lists: [], master: null }
  private project!: ProjectRow
  private clips = new Map<string, ClipRow>()
  private known = new Set<string>()
  private readonly registered = new Set<string>()
  constructor(
    private readonly client: Client,
    private readonly o: Options,
    private readonly out: Out,
  ) {}

  private async wait(started: Started, what: string): Promise<TaskRow[]> {
    return this.client.finish(started, (share) => this.out.step(`${what}: ${Math.round(share * 100)} %`))
  }

  /** A folder that was named, as a place on a volume. */
  private async place(path: string): Promise<TypedPlace> {
    const place = await this.client.ask('typedPlace', { path })
    if (!this.known.has(place.volumeId)) this.registered.add(place.volumeId)
    return place
  }

  /** A folder to write to, made if it is not there. */
  private async target(path: string): Promise<TargetFolder> {
    await mkdir(path, { recursive: true })
    const { volumeId, folder } = await this.place(path)
    return { volumeId, folder }
  }

  async go(): Promise<number> {
    const { o, client } = this
    this.known = new Set((await client.ask('volumes', {})).map((v) => v.id))
    this.project = await client.ask('createProject', { name: o.project ?? `job ${new Date().toISOString()}`, ...(o.rate ? { rate: o.rate } : {}) })
    try {
      return await this.steps()
    } finally {
      if (!o.project) {
        await client.ask('removeProject', this.project.id).catch(() => undefined)
        for (const id of this.registered) await client.ask('forgetVolume', id).catch(() => undefined)
      }
    }
  }

  private async steps(): Promise<number> {
    const { o } = this
    await this.takeIn()
    const cut = await this.importCut()
    await this.settle(cut)
    const open = await this.reconnected(cut)
    const copiesFailed = await this.copies()
    if (open.length > 0 && !o.placeholders) {
      this.out.say(
        `${open.length} of ${this.report.events.length} events are open: ${open.join(', ')}. ${o.master ? 'No master was rendered. ' : ''}Settle them with --set EVENT=PATH.`,
      )
      return 3
    }
    const pullsFailed = o.pulls ? await this.pulls(cut) : false
    if (o.master) {
      const code = await this.master(cut, o.master)
      if (code !== 0) return code
    }
    return copiesFailed || pullsFailed ? 1 : 0
  }

  private async takeIn(): Promise<void> {
    const folders = []
    for (const dir of this.o.originals) folders.push(await this.place(dir).then(({ volumeId, ref }) => ({ volumeId, ref })))
    const started = await this.client.ask('takeIn', { projectId: this.project.id, folders })
    const tasks = await this.wait(started, 'Taking in')
    const failed = tasks.find((t) => t.state !== 'done')
    if (failed) throw new Error(`${failed.label}: ${failed.error}`)
    for (const t of [...tasks].reverse()) this.out.say(t.message)
    // What looks like a light copy is compared with its original first.
    await this.client.settled(this.project.id, 'prove')
    for (let after: string | null = ''; after !== null; ) {
      const page: ClipPage = await this.client.ask('clips', { projectId: this.project.id, limit: 1000, ...(after ? { after } : {}) })
      for (const c of page.rows) this.clips.set(c.id, c)
      after = page.next
    }
    for (const c of this.clips.values()) {
      this.report.clips.push({
        path: c.file,
        frames: c.frames,
        rate: c.rate.den === 1 ? String(c.rate.num) : rateFraction(c.rate),
        timecode: c.start === null ? null : formatFrames(c.start, c.rate, c.drop),
        reel: c.reel,
        notices: c.notices.map((n) => n.code),
      })
      for (const n of c.notices) if (n.code === 'fault') this.report.problems.push({ file: c.file, line: 0, message: n.text })
    }
    this.project = await this.client.ask('project', this.project.id)
    if (this.o.raster) this.project = await this.client.ask('editProject', { projectId: this.project.id, version: this.project.version, ...this.o.raster })
    if (this.clips.size === 0) throw new Unusable(`There is no original to take in below ${this.o.originals.join(', ')}.`)
  }

  private async importCut(): Promise<CutDetail> {
    const files = await Promise.all(this.o.cuts.map(async (path) => ({ name: basename(path), base64: (await readFile(path)).toString('base64') })))
    try {
      const { cut, message } = await this.client.ask('importCut', {
        projectId: this.project.id,
        files,
        sourceCount: this.o.sourceCount,
        ...(this.o.rate ? { rate: this.o.rate } : {}),
      })
      for (const p of cut.problems) {
        this.report.problems.push({ file: p.file, line: p.line, message: p.message })
        this.out.say(`${p.file}, line ${p.line}: ${p.message}`)
      }
      this.out.say(`${cut.name}: ${message}`)
      return await this.client.ask('cut', cut.id)
    } catch (e) {
      if (!(e instanceof ApiError) || e.status >= 500) throw e
      for (const d of e.details) {
        const at = /^(.*), line (\d+): (.*)$/s.exec(d)
        this.report.problems.push({ file: at?.[1] ?? '', line: Number(at?.[2] ?? 0), message: at?.[3] ?? d })
      }
      this.report.problems.push({ file: this.o.cuts[0] ?? '', line: 0, message: e.message })
      throw new Unusable([e.message, ...e.details].join('\n'))
    }
  }

  /** The clip that a path names: itself, or the one whose path ends so. */
  private clipAt(path: string, option: string): ClipRow {
    const clips = [...this.clips.values()]
    const full = [resolve(path), ...this.o.originals.map((d) => resolve(d, path))]
    const exact = clips.filter((c) => full.includes(c.file))
    if (exact.length === 1) return exact[0] as ClipRow
    const folder = clips.filter((c) => c.name.includes('[') && full.some((f) => dirname(c.file) === f || dirname(c.file) === dirname(f)))
    if (folder.length === 1) return folder[0] as ClipRow
    const ending = clips.filter((c) => c.file.endsWith(`/${path.replace(/^\.?\//, '')}`))
    if (ending.length === 1) return ending[0] as ClipRow
    if (ending.length > 1) throw new Unusable(`${option}: ${path} could be ${ending.map((c) => c.file).join(' or ')}. Give more of the path.`)
    throw new Unusable(`${option}: ${path} is not among the originals.`)
  }

  private async settle(cut: CutDetail): Promise<void> {
    const wanted = this.o.set.map(({ event, path }) => {
      const option = `--set ${event}=${path}`
      const bare = (n: string) => n.replace(/^0+(?=.)/, '')
      const by = [
        (e: CutDetail['events'][number]) => e.id === event,
        (e: CutDetail['events'][number]) => `${e.track}/${e.number}` === event,
        (e: CutDetail['events'][number]) => e.number === event,
        (e: CutDetail['events'][number]) => bare(e.number) === bare(event),
      ]
      const found = by.map((f) => cut.events.filter(f)).find((l) => l.length > 0) ?? []
      const places = new Set(found.map((e) => `${e.file}:${e.lastLine}`))
      if (found.length === 0) throw new Unusable(`${option}: the cut has no event ${event}.`)
      if (places.size > 1) throw new Unusable(`${option}: ${event} could be ${found.map((e) => e.id).join(' or ')}. Give the whole id.`)
      const clip = this.clipAt(path, option)
      if (found.some((e) => e.medium === 'picture') && !clip.hasPicture) throw new Unusable(`${option}: ${clip.file} has no picture.`)
      // Whoever names a file in so many words means it, a light copy too.
      return { eventIds: found.map((e) => e.id), clipId: clip.id, light: clip.name }
    })
    for (const w of wanted) await this.client.ask('decide', { cutId: cut.id, ...w, action: 'set' })
  }

  /** Tells every event; returns the ids of those that are open. */
  private async reconnected(cut: CutDetail): Promise<string[]> {
    const links = new Map((await this.client.ask('links', cut.id)).map((l) => [l.eventId, l]))
    const open: string[] = []
    for (const e of cut.events) {
      const l = links.get(e.id)
      if (!l) continue
      const original = l.clipId ? (this.clips.get(l.clipId)?.file ?? null) : null
      const candidates = l.candidates.map((c) => ({
        path: this.clips.get(c.clipId)?.file ?? '',
        sourceIn: c.range.in,
        sourceOut: c.range.out,
        evidence: c.evidence.map((v) => `${v.kind} ${v.agreement}: ${v.text}`),
      }))
      this.report.events.push({
        id: e.id,
        number: e.number,
        track: e.track,
        state: l.state,
        away: l.away,
        original,
        sourceIn: l.range?.in ?? null,
        sourceOut: l.range?.out ?? null,
        recordIn: e.recordIn - cut.start,
        recordOut: e.recordOut - cut.start,
        candidates,
        reason: l.reason,
      })
      if (isOpen(l)) {
        open.push(e.id)
        for (const c of candidates) this.out.print(`      candidate ${c.path} ${c.sourceIn}–${c.sourceOut - 1}\n`)
      }
      this.out.print(
        `${`${e.track}/${e.number}`.padEnd(10)} ${`${l.state}${l.away ? ', away' : ''}`.padEnd(13)} ${original ?? '-'}${l.range ? ` ${l.range.in}–${l.range.out - 1}` : ''}  ${l.reason}\n`,
      )
    }
    return open
  }

  /** The code of a spec that came from a file: of one that is there already with the same settings, else it is added. */
  private async specFrom(draft: SpecDraft): Promise<string> {
    const old = (await this.client.ask('specs', {})).find((s) => s.name === draft.name)
    if (!old) return (await this.client.ask('addSpec', draft)).code
    if (isDeepStrictEqual(SpecDraft.parse(old), draft)) return old.code
    throw new Unusable(`There is a spec ${draft.name} with other settings here already. Give the one in the file (--copies) another name.`)
  }

  private async copies(): Promise<boolean> {
    const { o } = this
    if (!o.copies) return false
    const target = await this.target(o.copiesTo)
    const spec = 'code' in o.copies ? o.copies.code : await this.specFrom(o.copies)
    const started = await this.client.ask('makeCopies', { projectId: this.project.id, specs: [spec], ...target }).catch((e) => {
      if (e instanceof ApiError && e.status === 400) {
        this.out.say(e.message)
        return null
      }
      throw e
    })
    const tasks = started ? await this.wait(started, 'Edit copies') : []
    for (const c of await this.client.ask('copies', this.project.id))
      this.report.copies.push({
        path: c.path,
        original: this.clips.get(c.clipId)?.file ?? c.clip,
        spec: c.spec,
        checked: c.state === 'checked',
        faults: c.faults,
      })
    const bad = tasks.filter((t) => t.state !== 'done')
    for (const t of bad) this.out.say(`${t.label}: ${t.error}`)
    this.out.say(`${this.report.copies.filter((c) => c.checked).length} edit copies made and checked${bad.length ? `, ${bad.length} failed` : ''}.`)
    return bad.length > 0
  }

  private async pulls(cut: CutDetail): Promise<boolean> {
    const dir = this.o.pulls as string
    const target = await this.target(dir)
    const started = await this.client.ask('makePulls', { cutId: cut.id, ...target, handles: this.o.handles })
    const tasks = await this.wait(started, 'Pulls')
    for (const p of await this.client.ask('pulls', cut.id))
      this.report.pulls.push({
        path: p.path,
        original: this.clips.get(p.clipId)?.file ?? p.name,
        sourceIn: p.range.in,
        sourceOut: p.range.out,
        checked: p.state === 'checked',
      })
    for (const format of ['edl', 'otio'] as const) {
      const text = await this.client.ask('cutList', { cutId: cut.id, target: 'pulls', format })
      const path = join(dir, `${cut.name}.${format}`)
      await writeWhole(path, typeof text === 'string' ? text : JSON.stringify(text, null, 2))
      this.report.lists.push(path)
    }
    const bad = tasks.filter((t) => t.state !== 'done')
    for (const t of bad) this.out.say(`${t.label}: ${t.error}`)
    this.out.say(`${tasks.length - bad.length} pulls made and checked in ${dir}.`)
    return bad.length > 0
  }

  private async master(cut: CutDetail, path: string): Promise<number> {
    const target = await this.target(dirname(path))
    const Answer = Started.extend({ masterId: z.string() })
    let started: z.infer<typeof Answer>
    try {
      started = await this.client.ask('renderMaster', {
        cutId: cut.id,
        ...target,
        file: basename(path),
        placeholders: this.o.placeholders,
        missing: this.o.missing,
      })
    } catch (e) {
      if (!(e instanceof ApiError) || e.code !== 'blocked') throw e
      this.out.say([e.message, ...e.details].join('\n'))
      this.out.say('Let placeholders stand for them with --placeholders.')
      return 3
    }
    const [task] = await this.wait(started, 'Master')
    const row = await this.client.ask('master', started.masterId)
    if (!row.report) {
      const text = `The master was not rendered: ${task?.error || task?.state}`
      this.report.master = {
        path,
        frames: 0,
        verified: false,
        checks: [{ code: 'rendered', passed: false, text }],
        placeholders: [],
        unconfirmed: [],
        notCarried: [],
      }
      this.out.say(text)
      return 4
    }
    const { report } = row
    this.report.master = {
      path: row.path,
      frames: report.frames,
      verified: report.verified,
      checks: report.checks,
      placeholders: report.placeholders,
      unconfirmed: report.unconfirmed,
      notCarried: report.notCarried,
    }
    for (const c of report.checks) this.out.say(`${c.passed ? 'right' : 'WRONG'}: ${c.text}`)
    this.out.say(`${row.path}: ${report.verified ? 'checked, it is what the cut says.' : 'failed its check.'}`)
    return report.verified ? 0 : 4
  }
}

export async function job(args: readonly string[]): Promise<number> {
  if (args.includes('--help') || args.includes('-h')) {
    process.stdout.write(`${usage}\n`)
    return 0
  }
  let options: Options
  try {
    options = await readOptions(args)
  } catch (e) {
    if (!(e instanceof Unusable)) throw e
    say(e.message)
    return 2
  }
  const work = async (client: Client): Promise<number> => {
    const { code, report } = await carryOut(client, options, terminal)
    if (options.report) await writeReport(options.report, report)
    return code
  }
  // The running application, or a private one that ends with the job.
  for (const name of options.project ? ['own'] : ['own', 'demo']) {
    const running = await Instance.running(name)
    if (running) return work(new Client(running.address, running.config.key))
  }
  const name = options.project ? 'own' : passing('job')
  const instance = new Instance(name, { roots: [], parents: [] })
  return during(instance, () => work(new Client(instance.address, instance.config.key)), options.project ? [] : [instanceFolder(name)])
}

async function carryOut(client: Client, options: Options, out: Out): Promise<{ code: number; report: Report }> {
  const run = new Run(client, options, out)
  let code: number
  try {
    code = await run.go()
  } catch (e) {
    out.say(e instanceof ApiError ? [e.message, ...e.details].join('\n') : e instanceof Error ? e.message : String(e))
    code = e instanceof Unusable ? 2 : 1
  }
  return { code, report: run.report }
}

/** The same on an application that runs already, without a word on the terminal: its exit code, its report, and what it would have said. */
export async function jobOn(client: Client, args: readonly string[]): Promise<{ code: number; report: Report; said: string }> {
  const lines: string[] = []
  const keep = (text: string) => void lines.push(text.trimEnd())
  const end = await carryOut(client, await readOptions(args), { say: keep, print: keep, step: () => undefined })
  return { ...end, said: lines.join('\n') }
}
