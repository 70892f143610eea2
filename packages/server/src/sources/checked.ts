/** The checked copies of clips, kept until copies change: everything that is shown of a cut asks for them. */
import { In } from 'typeorm'
import { type Context, Derived } from '../platform/index.ts'
import { CopyEntity, type CopyRecord } from '../records/index.ts'
import { inPortions } from '../store/index.ts'

const kept = new Derived<Map<string, readonly CopyRecord[]>>({ things: 4 })
const none: readonly CopyRecord[] = []

/** For each clip its checked copies, without those whose files have vanished; clips without any have none. */
export async function checkedCopies(ctx: Context, projectId: string, clipIds: readonly string[]): Promise<ReadonlyMap<string, readonly CopyRecord[]>> {
  const known = kept.of(projectId, await ctx.version(projectId, ['copies', 'clips', 'volumes']), () => new Map())
  const missing = clipIds.filter((id) => !known.has(id))
  if (missing.length > 0) {
    const found = new Map<string, CopyRecord[]>()
    for (const some of inPortions(missing))
      for (const c of await ctx.repo(CopyEntity).findBy({ clipId: In([...some]), state: 'checked', gone: false }))
        found.set(c.clipId, [...(found.get(c.clipId) ?? []), c])
    for (const id of missing) known.set(id, found.get(id) ?? none)
  }
  return known
}
