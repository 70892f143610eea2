/** What is looked at and played: clips and cuts, made in one queue. */
import type { Context } from '../platform/index.ts'
import { ClipViewer } from './clips.ts'
import { CutViewer } from './cuts.ts'
import { Making } from './making.ts'

export class Viewer {
  readonly making: Making
  readonly clips: ClipViewer
  readonly cuts: CutViewer
  constructor(ctx: Context) {
    this.making = new Making(ctx)
    this.clips = new ClipViewer(ctx, this.making)
    this.cuts = new CutViewer(ctx, this.making)
  }
}
