/** Specs: those that ship, and those that people make of them; every version is kept. */
import { writeSetting, readSetting } from '../store/index.ts'
import { isDeepStrictEqual } from 'node:util'
import type { Ok, SpecDraft, SpecRow } from '@naranja/contract'
import { faultsOf, type Spec, specs as shipped } from '@naranja/core/specs'
import { imageForm } from '@naranja/media'
import type { z } from 'zod'
import { exclusively } from '../history/index.ts'
import { type Context, found, newId, Refusal, stale } from '../platform/index.ts'
import { settings, CopyEntity, type CopyRecord, SpecEntity } from '../records/index.ts'

/** The specs, in name, of copies that nobody here has made. */
export const elsewhere = { proxy: 'elsewhere-proxy', intermediate: 'elsewhere-intermediate' } as const
export const isElsewhere = (spec: string): boolean => spec === elsewhere.proxy || spec === elsewhere.intermediate

const forCopies = (s: Spec): boolean => s.kind === 'proxy' || s.kind === 'intermediate'
const starting = shipped.filter(forCopies)

/**
 * Puts the specs that ship into the store, where they are not there yet in any version. One that nobody has changed since it was put there is brought to
 * what ships now, as a version of its own: copies that were made by it know it as it was.
 */
export async function seedSpecs(ctx: Context): Promise<void> {
  const there = await ctx.repo(SpecEntity).find({ where: { current: true } })
  const made = new Date()
  const row = (s: Spec, version: number, removed: boolean) => ({ code: s.code, version, current: true, removed, spec: { ...s, version }, made, who: '' })
  const fresh = starting.filter((s) => !there.some((r) => r.code === s.code)).map((s) => row(s, 1, false))
  // Two processes may start at once.
  if (fresh.length > 0)
    await ctx
      .repo(SpecEntity)
      .createQueryBuilder()
      .insert()
      .orIgnore()
      .values(fresh as never)
      .execute()
  for (const now of there) {
    const shipped = starting.find((s) => s.code === now.code)
    if (!shipped || now.who !== '' || isDeepStrictEqual(now.spec, { ...shipped, version: now.version })) continue
    await exclusively(ctx, null, async (inside) => {
      await inside.repo(SpecEntity).update({ code: now.code }, { current: false })
      await inside.repo(SpecEntity).insert(row(shipped, now.version + 1, now.removed) as never)
    })
  }
}

/** The specs that new copies can be made by: those that ship in their order, then others by name. */
export async function currentSpecs(ctx: Context): Promise<Spec[]> {
  const rows = await ctx.repo(SpecEntity).findBy({ current: true, removed: false })
  const order = (s: Spec) => starting.findIndex((x) => x.code === s.code)
  const rank = (s: Spec) => (order(s) < 0 ? starting.length : order(s))
  return rows.map((r) => r.spec).sort((a, b) => rank(a) - rank(b) || a.name.localeCompare(b.name, 'en', { numeric: true }))
}

/** A spec by its code or name, as it is now. */
export async function copySpec(ctx: Context, codeOrName: string): Promise<Spec> {
  const all = await currentSpecs(ctx)
  const spec = all.find((s) => s.code === codeOrName) ?? all.find((s) => s.name.toLowerCase() === codeOrName.toLowerCase())
  if (!spec) throw new Refusal('bad-request', `There is no spec for edit copies called "${codeOrName}". Choose ${all.map((s) => s.name).join(', ')}.`)
  return spec
}

/** A spec as it was in a version, whether or not it is still there. */
export const specVersion = async (ctx: Context, code: string, version: number): Promise<Spec> =>
  found((await ctx.repo(SpecEntity).findOneBy({ code, version }))?.spec, 'The spec of this copy')

/** The spec that a copy was made by, as it was then; null for one that was made elsewhere. */
export const specOfCopy = async (ctx: Context, c: Pick<CopyRecord, 'spec' | 'specVersion'>): Promise<Spec | null> =>
  isElsewhere(c.spec) ? null : specVersion(ctx, c.spec, c.specVersion)

/** The specs that copies were made by, each once, asked for by copy; null for those that were made elsewhere. */
export async function specsOfCopies(
  ctx: Context,
  copies: readonly Pick<CopyRecord, 'spec' | 'specVersion'>[],
): Promise<(c: Pick<CopyRecord, 'spec' | 'specVersion'>) => Spec | null> {
  const key = (c: Pick<CopyRecord, 'spec' | 'specVersion'>) => `${c.spec} ${c.specVersion}`
  const once = [...new Map(copies.map((c) => [key(c), c])).values()]
  const all = new Map(await Promise.all(once.map(async (c) => [key(c), await specOfCopy(ctx, c)] as const)))
  return (c) => all.get(key(c)) ?? null
}

export const defaultSpec = async (ctx: Context): Promise<string> => {
  const { value } = await readSetting(ctx.db, settings.defaultSpec, '')
  const all = await currentSpecs(ctx)
  return all.find((s) => s.code === value)?.code ?? all[0]?.code ?? ''
}
/** Makes a spec the one that is offered first, in place of the one that was `seen` to be. */
export const setDefaultSpec = (ctx: Context, code: string, seen?: string): Promise<z.infer<typeof Ok>> =>
  exclusively(ctx, null, async (inside) => {
    const [spec, now] = [await copySpec(inside, code), await defaultSpec(inside)]
    if (seen !== undefined && seen !== now)
      throw stale(`Somebody made ${(await copySpec(inside, now)).name} the spec that is offered first. Nothing was changed.`, { default: now })
    await writeSetting(inside.db, settings.defaultSpec, '', spec.code, null)
    await inside.changed(null, 'specs')
    return { ok: true }
  })

export async function listSpecs(ctx: Context, projectId?: string): Promise<SpecRow[]> {
  const [all, standard] = await Promise.all([currentSpecs(ctx), defaultSpec(ctx)])
  const counts = projectId
    ? await ctx
        .repo(CopyEntity)
        .createQueryBuilder('c')
        .select('c.spec', 'spec')
        .addSelect('c.specVersion', 'version')
        .addSelect('COUNT(*)', 'n')
        .where('c.projectId = :projectId AND c.state = :state', { projectId, state: 'checked' })
        .groupBy('c.spec, c.specVersion')
        .getRawMany<{ spec: string; version: number; n: string }>()
    : []
  return all.map((s) => {
    const mine = counts.filter((c) => c.spec === s.code)
    const sum = (list: typeof mine) => list.reduce((n, c) => n + Number(c.n), 0)
    return {
      ...asRow(s),
      isDefault: s.code === standard,
      shipped: starting.some((x) => x.code === s.code),
      copies: sum(mine),
      older: sum(mine.filter((c) => Number(c.version) < s.version)),
    }
  })
}
const asRow = (s: Spec) => ({
  ...s,
  kind: s.kind,
  burnIns: [...s.burnIns],
  sound: { ...s.sound, chosen: [...s.sound.chosen] },
  receiver: { ...s.receiver, wrappers: [...s.receiver.wrappers] },
})

/** Refuses what cannot be made, with the setting and what would do. */
function sound(draft: SpecDraft, code: string, version: number): Spec {
  const spec: Spec = { ...draft, code, version }
  for (const b of spec.burnIns) if (b.image) imageForm(Buffer.from(b.image, 'base64'))
  const faults = faultsOf(spec)
  if (faults.length > 0)
    throw new Refusal(
      'bad-request',
      faults.map((f) => f.text).join(' '),
      faults.map((f) => `${f.field}: ${f.text}`),
    )
  return spec
}

async function nameFree(ctx: Context, name: string, but?: string): Promise<void> {
  if ((await currentSpecs(ctx)).some((s) => s.code !== but && s.name.toLowerCase() === name.toLowerCase()))
    throw new Refusal('taken', `There is a spec called "${name}" already. Give this one another name.`)
}

export const addSpec = (ctx: Context, draft: SpecDraft): Promise<{ code: string }> =>
  exclusively(ctx, null, async (inside) => addedSpec(inside, sound(draft, newId(), 1)))

async function addedSpec(ctx: Context, spec: Spec): Promise<{ code: string }> {
  await nameFree(ctx, spec.name)
  await ctx.repo(SpecEntity).insert({ code: spec.code, version: 1, current: true, removed: false, spec, made: new Date(), who: ctx.config.user } as never)
  await ctx.changed(null, 'specs')
  return { code: spec.code }
}

/** Makes a new version of a spec, unless somebody else has made one since `version` was read. */
export const changeSpec = (ctx: Context, code: string, version: number, draft: SpecDraft): Promise<{ version: number }> =>
  exclusively(ctx, null, async (inside) => {
    const now = await copySpec(inside, code)
    if (now.version !== version) throw stale(`${now.name} was changed meanwhile (it is version ${now.version} now). Nothing was changed.`, asRow(now))
    const spec = sound(draft, code, version + 1)
    await nameFree(inside, spec.name, code)
    await inside.repo(SpecEntity).update({ code }, { current: false })
    await inside.repo(SpecEntity).insert({ code, version: version + 1, current: true, removed: false, spec, made: new Date(), who: ctx.config.user } as never)
    await inside.changed(null, 'specs')
    return { version: version + 1 }
  })

/** Takes a spec off the list. Copies made by it know it as it was; what is being made by it is made to its end. */
export const removeSpec = (ctx: Context, code: string): Promise<z.infer<typeof Ok>> =>
  exclusively(ctx, null, async (inside) => {
    const spec = await copySpec(inside, code)
    if ((await currentSpecs(inside)).length === 1) throw new Refusal('blocked', `${spec.name} is the only spec. Make another before removing it.`)
    await inside.repo(SpecEntity).update({ code }, { removed: true })
    await inside.changed(null, 'specs')
    return { ok: true }
  })

/** Brings a removed spec back. */
export const restoreSpec = (ctx: Context, code: string): Promise<z.infer<typeof Ok>> =>
  exclusively(ctx, null, async (inside) => {
    const row = found(await inside.repo(SpecEntity).findOneBy({ code, current: true }), 'The spec')
    await nameFree(inside, row.spec.name, code)
    await inside.repo(SpecEntity).update({ code }, { removed: false })
    await inside.changed(null, 'specs')
    return { ok: true }
  })

/** Every version of a spec, the newest first. */
export async function specVersions(
  ctx: Context,
  code: string,
): Promise<{ version: number; made: string; who: string; spec: SpecDraft & { code: string; version: number } }[]> {
  const rows = await ctx.repo(SpecEntity).find({ where: { code }, order: { version: 'DESC' } })
  return rows.map((r) => ({
    version: r.version,
    made: r.made.toISOString(),
    who: r.who,
    spec: { ...asRow(r.spec), kind: r.spec.kind === 'intermediate' ? 'intermediate' : 'proxy' },
  }))
}
