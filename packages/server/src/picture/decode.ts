/** Decode settings of raw clips: the project's, a clip's own, and what a person points at as grey. */
import { createHash } from 'node:crypto'
import type { Changed, DecodeAsk, ProjectDecode } from '@naranja/contract'
import { type DecodeSettings, decodeWords } from '@naranja/core/raw'
import { cameraColour, clipInput, type MediaInput } from '@naranja/media'
import { In } from 'typeorm'
import { change, recordChange } from '../history/index.ts'
import { type Context, found, nameOrNumber, Refusal, stale } from '../platform/index.ts'
import { settings, ClipEntity, type ClipRecord } from '../records/index.ts'
import { inPortions, readSetting, updateClips, writeSetting } from '../store/index.ts'
import { resolvePlace } from '../volumes/index.ts'

/** How a project's raw clips are developed. */
export type Developed = Omit<ProjectDecode, 'version'>

export async function projectDecode(ctx: Context, projectId: string): Promise<ProjectDecode> {
  const { value, version } = await readSetting(ctx.db, settings.decode, projectId)
  return { ...value, version }
}

type Decoded = Pick<ClipRecord, 'technical' | 'decode'>

/** How a clip's original is read, developed as its settings or the project's have it. */
export const inputOf = (path: Uint8Array, c: Decoded, p: Developed): MediaInput =>
  clipInput(path, c.technical, { settings: c.decode ?? p.settings, display: p.display })

/** The same for what is finished: at full size, whatever size was good enough to look at and for proxies. */
export const finishingInput = (path: Uint8Array, c: Decoded, p: Developed): MediaInput =>
  inputOf(path, { ...c, decode: { ...(c.decode ?? p.settings), size: 'full' } }, p)

/** Changes when a raw clip is developed in another way; empty for every other clip. */
export const shownAs = (c: Decoded, p: Developed): string =>
  c.technical.raw
    ? createHash('sha1')
        .update(JSON.stringify([c.decode ?? p.settings, p.display]))
        .digest('hex')
        .slice(0, 12)
    : ''

/** What a project's or a clip's settings have become while somebody looked at something older; null where they are as they were seen. */
function otherSince(now: DecodeSettings, before: Partial<DecodeSettings>): DecodeSettings | null {
  const keys = Object.keys(before) as (keyof DecodeSettings)[]
  return keys.every((k) => JSON.stringify(now[k]) === JSON.stringify(before[k])) ? null : now
}

/** Gives clips settings of their own, or (null) the project's again. Clips that are not raw are left alone, and settings that are not named. */
export const setDecode = change(async (ctx: Context, projectId: string, { clipIds, settings, before }: DecodeAsk): Promise<Changed> => {
  const asked: ClipRecord[] = []
  for (const some of inPortions(clipIds)) asked.push(...(await ctx.repo(ClipEntity).findBy({ projectId, removed: false, id: In([...some]) })))
  const clips = asked.filter((c) => c.technical.raw)
  const [one] = clips
  if (!one) throw new Refusal('bad-request', 'None of these clips is raw; only raw clips have decode settings.')
  const { settings: common } = await projectDecode(ctx, projectId)
  for (const c of clips) {
    const other = before && otherSince(c.decode ?? common, before)
    if (other) throw stale(`Somebody developed ${c.name} otherwise meanwhile: ${decodeWords(other)}. Nothing was changed.`, other)
  }
  const rows = clips.map((c) => ({ id: c.id, decode: settings && { ...(c.decode ?? common), ...settings } }))
  await updateClips(ctx.db, rows)
  const first = rows[0]?.decode
  const recorded = await recordChange(ctx, projectId, `${nameOrNumber(clips)}: developed ${first ? decodeWords(first) : 'as the project says'}.`, {
    kind: 'decode',
    before: clips.map((c) => ({ id: c.id, decode: c.decode })),
  })
  await ctx.changed(projectId, 'clips')
  return recorded
})

export const setProjectDecode = change(async (ctx: Context, projectId: string, { version, ...next }: ProjectDecode): Promise<Changed> => {
  const before = await projectDecode(ctx, projectId)
  if (!(await writeSetting(ctx.db, settings.decode, projectId, next, version)))
    throw stale(`Somebody changed how raw clips of the project are developed meanwhile: ${decodeWords(before.settings)}. Nothing was changed.`, before)
  const recorded = await recordChange(
    ctx,
    projectId,
    `Raw clips of the project: developed ${decodeWords(next.settings)}${next.display === 'soft' ? ', with soft highlights' : ''}.`,
    { kind: 'project-decode', before },
  )
  await ctx.changed(projectId, 'clips')
  return recorded
})
export const putBackDecode = (ctx: Context, projectId: string, developed: Developed): Promise<unknown> =>
  writeSetting(ctx.db, settings.decode, projectId, developed, null)

/** What stands at a point of a frame, as a neutral to balance by; x and y from 0 to 1. */
export async function pickGrey(ctx: Context, clipId: string, at: { frame: number; x: number; y: number }): Promise<{ neutral: [number, number, number] }> {
  const clip = found(await ctx.repo(ClipEntity).findOneBy({ id: clipId, removed: false }), 'The clip')
  const s = clip.technical.sequence
  if (!clip.technical.raw || !s) throw new Refusal('bad-request', `${clip.name} is not raw: there is no white balance to set.`)
  const { path } = await resolvePlace(ctx, clip.volumeId, clip.path)
  const neutral = await cameraColour(path, s, at.frame, at.x, at.y)
  if (!neutral) throw new Refusal('bad-request', 'It is black there, and black has no colour. Point at something grey or white.')
  return { neutral: [...neutral] }
}
