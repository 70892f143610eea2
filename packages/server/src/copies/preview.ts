/** One frame of a copy as a spec would make it, to the pixel. */
import type { PreviewAsk } from '@naranja/contract'
import { faultsFor, faultsOf, isRewrap, type Spec } from '@naranja/core/specs'
import { preview } from '@naranja/media'
import type { z } from 'zod'
import { clipOf } from '../originals/index.ts'
import { type Context, Refusal } from '../platform/index.ts'
import { fromOriginal } from '../sources/index.ts'
import { asOriginal } from '../specs/index.ts'
import { copyJob, worthFullSize } from './make.ts'
import { projectRate } from './facts.ts'

/** What is shown is written nowhere. */
const nowhere = { path: Buffer.from('/'), device: 0 }

export async function previewOf(ctx: Context, clipId: string, ask: z.infer<typeof PreviewAsk>): Promise<Buffer> {
  const spec: Spec = { ...ask.spec, code: 'draft', version: 1 }
  const clip = await clipOf(ctx, clipId)
  const fault = faultsOf(spec)[0]?.text ?? faultsFor(spec, asOriginal(clip), await projectRate(ctx, clip.projectId))[0]
  if (fault) throw new Refusal('bad-request', `${clip.name}: ${fault}`)
  // Streams that are copied as they are show what the original does.
  const drawn: Spec = isRewrap(spec) ? { ...spec, coding: 'v210', wrapper: 'mov' } : spec
  const { source, material } = await fromOriginal(ctx, clip, worthFullSize([drawn]))
  const from = { source, material: isRewrap(spec) ? { ...material, crop: null } : material }
  const job = await copyJob(ctx, clip, from, [{ spec: drawn, target: '/preview', root: nowhere }], { in: 0, out: clip.frames })
  const [o] = job.outputs
  if (!o) throw new Refusal('unreadable', `${clip.name} has no picture.`)
  return preview(job, o, Math.min(ask.frame, clip.frames - 1), ask.width)
}
