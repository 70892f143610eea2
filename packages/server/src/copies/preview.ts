/** One frame of a copy as a spec would make it, to the pixel. */
import type { PreviewAsk } from '@naranja/contract'
import type { Layout } from '@naranja/core/framing'
import { faultsFor, faultsOf, framed, isRewrap, type Spec } from '@naranja/core/specs'
import { preview } from '@naranja/media'
import type { z } from 'zod'
import type { Context } from '../context.ts'
import { Refusal } from '../errors.ts'
import { clipOf } from '../originals/service.ts'
import { copyJob } from './make.ts'
import type { ClipRecord, CopyRecord } from '../store/index.ts'
import { asOriginal, projectRate } from './plan.ts'
import { specVersion } from './specs.ts'
import { isElsewhere } from './state.ts'

/** How a clip's picture was put into a copy of it; all of it into all of a copy that was made elsewhere. */
export async function layoutOf(ctx: Context, clip: ClipRecord, copy: CopyRecord): Promise<Layout> {
  const t = clip.technical
  const whole = { x: 0, y: 0, width: t.width, height: t.height }
  const facts = copy.facts
  if (isElsewhere(copy.spec)) {
    const raster = { width: facts?.width ?? t.width, height: facts?.height ?? t.height }
    return { source: whole, take: whole, place: { x: 0, y: 0, ...raster }, raster, pixelAspect: 1, scale: 100 }
  }
  return framed(await specVersion(ctx, copy.spec, copy.specVersion), asOriginal(clip))
}

/** What is shown is written nowhere. */
const nowhere = { path: Buffer.from('/'), device: 0 }

export async function previewOf(ctx: Context, clipId: string, ask: z.infer<typeof PreviewAsk>): Promise<Buffer> {
  const spec: Spec = { ...ask.spec, code: 'draft', version: 1 }
  const clip = await clipOf(ctx, clipId)
  const fault = faultsOf(spec)[0]?.text ?? faultsFor(spec, asOriginal(clip), await projectRate(ctx, clip.projectId))[0]
  if (fault) throw new Refusal('bad-request', `${clip.name}: ${fault}`)
  // Streams that are copied as they are show what the original does.
  const drawn: Spec = isRewrap(spec) ? { ...spec, coding: 'v210', wrapper: 'mov' } : spec
  const job = await copyJob(ctx, { ...clip, ...(isRewrap(spec) ? { crop: null } : {}) }, [{ spec: drawn, target: '/preview', root: nowhere }], {
    in: 0,
    out: clip.frames,
  })
  const [o] = job.outputs
  if (!o) throw new Refusal('unreadable', `${clip.name} has no picture.`)
  return preview(job, o, Math.min(ask.frame, clip.frames - 1), ask.width)
}
