/** A real frame as it was shot, and as the copy will have it. */
import type { ClipRow, SpecDraft } from '@naranja/contract'
import { framed } from '@naranja/core/specs'
import { useState } from 'react'
import { clipStill, FrameSlider, useStill, Select } from '../../ui/index.ts'
import { specOfDraft } from './draft.ts'
import { usePreview } from './usePreview.ts'

const width = 960

export function PreviewPair({
  clip,
  clips,
  onClip,
  draft,
}: {
  clip: ClipRow | undefined
  clips: readonly ClipRow[]
  onClip: (id: string) => void
  draft: SpecDraft
}) {
  const [share, setShare] = useState(0.5)
  const frame = clip ? Math.min(clip.frames - 1, Math.round(share * (clip.frames - 1))) : 0
  const shot = useStill(clip ? clipStill(clip, frame, width, 'originals') : '')
  const raster = clip && framed(specOfDraft(draft), { ...clip, interlaced: clip.scan !== 'progressive' })
  const made = usePreview(clip?.id ?? null, draft, frame, width)
  if (!clip) return <p className="m-0 text-ink-2">Add originals to see what this spec makes of them.</p>
  return (
    <div className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <Select label="Clip" className="max-w-[270px]" value={clip.id} onChange={onClip}>
          {clips.map((c) => (
            <option key={c.id} value={c.id}>
              {c.roll} {c.name}
            </option>
          ))}
        </Select>
        <FrameSlider clip={clip} frame={frame} onFrame={(f) => setShare(f / Math.max(1, clip.frames - 1))} />
      </div>
      <Picture title="As shot" note={`${clip.width}×${clip.height}, ${clip.depth} bit ${clip.chroma}`} src={shot ?? null} />
      <Picture
        title="As the copy will be"
        note={made.waiting ? 'being made' : raster ? `${raster.raster.width}×${raster.raster.height}, ${raster.scale} %` : ''}
        src={made.url}
        fault={made.fault}
      />
    </div>
  )
}

function Picture({ title, note, src, fault = null }: { title: string; note: string; src: string | null; fault?: string | null }) {
  return (
    <figure className="m-0">
      <figcaption className="mb-1 flex justify-between gap-2 text-xs text-ink-2">
        <b className="font-[650] text-ink">{title}</b>
        <span className="mono">{note}</span>
      </figcaption>
      <div className="grid h-[232px] place-items-center overflow-hidden rounded-md bg-well">
        {src ? (
          <img src={src} alt={title} className="max-h-[232px] max-w-full object-contain" />
        ) : (
          <span className="max-w-[40ch] p-4 text-center text-[#b8b8b8]">{fault ?? ''}</span>
        )}
      </div>
    </figure>
  )
}
