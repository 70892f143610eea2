/** What a job is told on the command line. */
import { existsSync } from 'node:fs'
import { readFile, stat } from 'node:fs/promises'
import { resolve, sep } from 'node:path'
import { parseArgs } from 'node:util'
import { type SpecDraft, SpecFile } from '@naranja/contract'
import { type Spec, specOf } from '@naranja/core/specs'
import { typedRate } from '@naranja/core/time'
import { z } from 'zod'

export const usage = `./naranja job --originals DIR [--originals DIR ...] --cut FILE [--cut FILE ...]
    [--copies SPEC] [--copies-to DIR]    edit copies: h264-proxy-720, prores-proxy-1080, dnxhr-sq, rewrapped,
                                         or a file that Specs has exported (SPEC.json)
    [--set EVENT=PATH ...]               settles an event by hand: its id (cut/track/number), track/number or number
    [--rate R] [--raster WxH]            of the cut and the master; else those of most originals
    [--source-count list|source]         the rate that source timecode is counted at; else whichever fits
    [--handles N] [--pulls DIR]          used ranges with N frames of handles (12), and lists that point at them
    [--master FILE] [--placeholders]     renders the cut; placeholders stand for titles and open events
    [--missing placeholder|held]         where a clip ends before its event does: a placeholder, or the last frame held
    [--report FILE.json] [--project NAME]  --project keeps what was made in your own instance

Exit: 0 done and verified, 1 another failure, 2 something given can't be used, 3 an event is open,
      4 the master failed its check or could not be rendered.`

/** Something given cannot be used. */
export class Unusable extends Error {}

export interface Options {
  originals: string[]
  cuts: string[]
  /** A spec that ships, or one that comes from a file. */
  copies: Spec | SpecDraft | null
  copiesTo: string
  set: { event: string; path: string }[]
  rate: string | null
  raster: { width: number; height: number } | null
  sourceCount: 'auto' | 'list' | 'source'
  handles: number
  pulls: string | null
  master: string | null
  placeholders: boolean
  missing: 'placeholder' | 'held'
  report: string | null
  project: string | null
}

/** A spec for edit copies by its code or name, or from a file. */
async function readSpec(text: string): Promise<Spec | SpecDraft> {
  if (!/\.json$/i.test(text)) {
    const spec = specOf(text)
    if (spec && (spec.kind === 'proxy' || spec.kind === 'intermediate')) return spec
    throw new Unusable(
      `There is no spec "${text}" for edit copies (--copies). Take h264-proxy-720, prores-proxy-1080, dnxhr-sq, rewrapped, or a file that Specs has exported.`,
    )
  }
  const file = await readFile(resolve(text), 'utf8').catch(() => null)
  if (file === null) throw new Unusable(`The spec ${text} (--copies) is not there, or cannot be read.`)
  const read = z
    .string()
    .transform((t, c): unknown => {
      try {
        return JSON.parse(t)
      } catch {
        c.addIssue('it is no JSON')
        return z.NEVER
      }
    })
    .pipe(SpecFile)
    .safeParse(file)
  if (read.success) return read.data.spec
  const [first] = read.error.issues
  throw new Unusable(`${text} (--copies) is not a spec: ${first?.path.join('.') || 'the file'}: ${first?.message}. docs/specs.md says what stands in one.`)
}

/** The words of the command line, as they are written. */
function parse(args: readonly string[]) {
  const text = { type: 'string' } as const
  const many = { type: 'string', multiple: true } as const
  const lists = { originals: many, cut: many, set: many }
  const places = { 'copies-to': text, pulls: text, master: text, report: text, project: text }
  const how = { copies: text, rate: text, raster: text, 'source-count': text, handles: text, placeholders: { type: 'boolean' }, missing: text } as const
  try {
    return parseArgs({ args: [...args], options: { ...lists, ...places, ...how } }).values
  } catch (e) {
    throw new Unusable(`${e instanceof Error ? e.message : e}\n\n${usage}`)
  }
}

type Values = ReturnType<typeof parse>

function need(ok: unknown, sentence: string): asserts ok {
  if (!ok) throw new Unusable(sentence)
}

/** What is read must be there, and what is written must not stand in the way. */
async function needPlaces(values: Values, originals: readonly string[], cuts: readonly string[], master: string | null): Promise<void> {
  const found = (path: string) => stat(path).catch(() => null)
  need(originals.length, `--originals is missing: the folder with the originals.\n\n${usage}`)
  need(cuts.length, `--cut is missing: the cut, as a decision list (.edl), a timeline (.otio) or a table (.csv).\n\n${usage}`)
  for (const dir of originals) {
    const s = await found(dir)
    need(s, `The folder ${dir} (--originals) is not there.`)
    need(s.isDirectory(), `${dir} (--originals) is not a folder.`)
  }
  for (const file of cuts) {
    const s = await found(file)
    need(s, `The cut list ${file} (--cut) is not there.`)
    need(s.isFile(), `${file} (--cut) is not a file.`)
  }
  need(!master || !existsSync(master), `${master} (--master) stands there already; a master never overwrites. Choose another name.`)
  for (const option of ['copies-to', 'pulls'] as const) {
    const path = values[option]
    const s = path === undefined ? null : await found(resolve(path))
    need(!s || s.isDirectory(), `${path} (--${option}) is not a folder.`)
  }
}

/** How the cut is counted and conformed. */
function readHow(values: Values): Pick<Options, 'rate' | 'raster' | 'sourceCount' | 'missing' | 'handles' | 'set'> {
  const { rate = null, missing = 'placeholder', handles = '12', 'source-count': count = 'auto' } = values
  need(rate === null || typedRate(rate), `"${rate}" (--rate) is not a frame rate. Write it as 25, 23.976 or 24000/1001.`)
  const raster = /^(\d{2,5})x(\d{2,5})$/i.exec(values.raster ?? '')
  const [width, height] = [Number(raster?.[1]), Number(raster?.[2])]
  const even = raster && width % 2 === 0 && height % 2 === 0
  need(values.raster === undefined || even, `"${values.raster}" (--raster) is not a raster. Write even numbers, as 1920x1080.`)
  need(count === 'auto' || count === 'list' || count === 'source', `--source-count is list or source, not "${count}".`)
  need(missing === 'placeholder' || missing === 'held', `--missing is placeholder or held, not "${missing}".`)
  need(/^\d{1,3}$/.test(handles), `"${handles}" (--handles) is not a number of frames.`)
  const set = (values.set ?? []).map((s) => {
    const at = s.indexOf('=')
    need(at > 0 && at < s.length - 1, `"${s}" (--set) is not EVENT=PATH.`)
    return { event: s.slice(0, at), path: s.slice(at + 1) }
  })
  return { rate, raster: raster ? { width, height } : null, sourceCount: count, missing, handles: Number(handles), set }
}

export async function readOptions(args: readonly string[]): Promise<Options> {
  const values = parse(args)
  const list = (x: string[] | undefined) => (x ?? []).map((p) => resolve(p))
  const place = (path: string | undefined) => (path === undefined ? null : resolve(path))
  const [originals, cuts] = [list(values.originals), list(values.cut)]
  const master = place(values.master)?.replace(/(\.mov)?$/i, '.mov') ?? null
  await needPlaces(values, originals, cuts, master)
  return {
    // A folder inside another one given is taken in with it, once.
    originals: [...new Set(originals)].filter((d, _, all) => !all.some((o) => o !== d && d.startsWith(o.endsWith(sep) ? o : o + sep))),
    cuts,
    copies: values.copies === undefined ? null : await readSpec(values.copies),
    copiesTo: resolve(values['copies-to'] ?? 'Edit copies'),
    ...readHow(values),
    pulls: place(values.pulls),
    master,
    placeholders: values.placeholders ?? false,
    report: place(values.report),
    project: values.project ?? null,
  }
}
