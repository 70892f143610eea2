/** The part of each picture that edit copies show: drawn, nudged or typed; for a clip, the ticked ones, or all of a shape. */
import type { ClipRow, CropShape } from '@naranja/contract'
import { type Crop, largestCrop, partOf } from '@naranja/core/framing'
import { type KeyboardEvent, type PointerEvent, useMemo, useRef, useState } from 'react'
import { api } from '../../api/index.ts'
import { selectClip, useAct, useAppDispatch, useAppSelector, useProject, useProjectId } from '../../state/index.ts'
import { Button, clipStill, type Column, Field, Figure, FrameSlider, inputLook, plural, RowList, useStill } from '../../ui/index.ts'

/** Aspects that can be held, as they are written. */
const aspects = ['free', 'as shot', '2.39', '1.85', '16:9', '4:3', '1:1', '9:16'] as const
const aspectOf = (a: (typeof aspects)[number], shot: number): number | null => {
  if (a === 'free') return null
  if (a === 'as shot') return shot
  const [w = 1, h = 1] = a.split(':').map(Number)
  return w / h
}

export function Framing({ rows }: { rows: readonly ClipRow[] }) {
  const dispatch = useAppDispatch()
  const selected = useAppSelector((s) => s.face.clipId)
  const clip = rows.find((r) => r.id === selected) ?? rows[0]
  const columns = useMemo(
    (): Column<ClipRow>[] => [
      { head: 'Clip', width: 'minmax(150px,1fr)', look: 'mono', cell: (r) => r.name },
      { head: 'Crop', width: '84px', look: 'mono text-ink-2', cell: (r) => (r.crop ? `${r.crop.width}×${r.crop.height}` : '–') },
    ],
    [],
  )
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[292px_minmax(0,1fr)]">
      <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
        <RowList
          label="Clips to crop"
          keys="Clips"
          rows={rows}
          id={(r) => r.id}
          columns={columns}
          selected={clip?.id ?? null}
          onSelect={(r) => dispatch(selectClip(r.id))}
        />
      </div>
      {clip && <Drawing key={`${clip.id} ${JSON.stringify(clip.crop)}`} clip={clip} rows={rows} />}
    </div>
  )
}

const whole = (c: ClipRow): Crop => ({ x: 0, y: 0, width: c.width, height: c.height })

function Drawing({ clip, rows }: { clip: ClipRow; rows: readonly ClipRow[] }) {
  const projectId = useProjectId()
  const project = useProject()
  const { pixelAspect } = clip
  const [crop, setCropNow] = useState<Crop>(clip.crop ?? whole(clip))
  const shot = (clip.width * pixelAspect) / clip.height
  const [aspect, setAspect] = useState<(typeof aspects)[number]>('free')
  const held = aspectOf(aspect, shot)
  const [share, setShare] = useState(0.5)
  const frame = Math.round(share * (clip.frames - 1))
  const still = useStill(clipStill(clip, frame, 1280, 'originals'))
  const [send, { isLoading }] = api.useSetCropMutation()
  const act = useAct()
  const source = { width: clip.width, height: clip.height, pixelAspect }
  const tidy = (c: Crop): Crop => partOf({ ...source, crop: c })
  /** Keeps the aspect by the width, inside the picture. */
  const shaped = (c: Crop, a = held): Crop => {
    if (a === null) return tidy(c)
    const height = (c.width * pixelAspect) / a
    const fits = Math.min(1, (clip.height - c.y) / height)
    return tidy({ ...c, width: c.width * fits, height: height * fits })
  }
  const same = rows.filter((r) => r.width === clip.width && r.height === clip.height)
  const ticked = rows.filter((r) => r.ticked && r.width === clip.width && r.height === clip.height)
  const full = crop.width >= clip.width - 1 && crop.height >= clip.height - 1
  const changed = JSON.stringify(clip.crop ?? null) !== JSON.stringify(full ? null : crop)
  /** The crop that stood here when the drawing began, or that was set from here last. */
  const seen = useRef<CropShape | null>((clip.crop as CropShape | null) ?? null)
  const put = async (clipIds: string[], to: CropShape | null, allOfShape = false) => {
    const mine = { projectId, clipIds, crop: to, allOfShape }
    // Only this clip is looked at; the others get what it gets.
    const before = clipIds[0] === clip.id ? { seen: seen.current } : {}
    const done = await act(
      send({ ...mine, ...before }),
      (c) => c.sentence,
      projectId,
      (now: CropShape | null) => send({ ...mine, seen: now }),
    )
    if (done && clipIds.includes(clip.id)) seen.current = to
  }
  const apply = (clipIds: string[], allOfShape = false) => void put(clipIds, full ? null : (crop as CropShape), allOfShape)
  return (
    <div className="flex min-h-0 min-w-0">
      <div className="flex min-h-0 min-w-0 flex-1 flex-col gap-2 p-3">
        <div className="flex min-h-0 flex-1 items-center justify-center rounded-md bg-well p-2">
          <Picture src={still} shot={shot} clip={clip} crop={crop} onCrop={(c) => setCropNow(shaped(c))} onMove={(c) => setCropNow(tidy(c))} />
        </div>
        <div className="flex items-center gap-2">
          <FrameSlider clip={clip} frame={frame} onFrame={(f) => setShare(f / Math.max(1, clip.frames - 1))} />
        </div>
      </div>
      <aside aria-label="Crop" className="flex w-[264px] flex-none flex-col gap-2 overflow-auto border-l border-line p-3">
        <b className="font-[650] break-all">{clip.name}</b>
        <p className="m-0 text-ink-2">The part of the picture that edit copies show. The original and every cut stay as they are.</p>
        <Field label="Shape of the crop">
          {(id) => (
            <select
              id={id}
              className={inputLook}
              value={aspect}
              onChange={(e) => {
                const a = e.target.value as (typeof aspects)[number]
                setAspect(a)
                const v = aspectOf(a, shot)
                if (v !== null) setCropNow(tidy(largestCrop(source, v)))
              }}
            >
              {aspects.map((a) => (
                <option key={a} value={a}>
                  {a === 'free' ? 'free' : a === 'as shot' ? `as shot (${shot.toFixed(2)})` : a}
                </option>
              ))}
            </select>
          )}
        </Field>
        <div className="grid grid-cols-2 gap-2">
          {(['x', 'y', 'width', 'height'] as const).map((k) => (
            <Field key={k} label={{ x: 'From the left', y: 'From the top', width: 'Width', height: 'Height' }[k]}>
              {(id) => (
                <input
                  id={id}
                  type="number"
                  step={2}
                  className={`${inputLook} mono`}
                  value={Math.round(crop[k])}
                  onChange={(e) => {
                    const v = e.target.valueAsNumber
                    if (!Number.isFinite(v) || v < 0) return
                    const next = { ...crop, [k]: v }
                    setCropNow(
                      k === 'height' && held !== null ? shaped({ ...next, width: (v * held) / pixelAspect }) : k === 'width' ? shaped(next) : tidy(next),
                    )
                  }}
                />
              )}
            </Field>
          ))}
        </div>
        <Figure name="Shot at">
          {clip.width}×{clip.height}
        </Figure>
        <Figure name="Shows">{full ? 'all of it' : `${Math.round((100 * crop.width * crop.height) / (clip.width * clip.height))} %`}</Figure>
        <Figure name="Shape">{((crop.width * pixelAspect) / crop.height).toFixed(2)}</Figure>
        {project && (
          <Figure name="Pixels for the project">
            {(crop.width * pixelAspect) / project.width >= 1 ? 'enough' : `${Math.round((100 * crop.width * pixelAspect) / project.width)} % of its width`}
          </Figure>
        )}
        <p className="m-0 text-xs text-ink-3">
          Drag the frame or its corners; arrows nudge by two pixels, with Shift by twenty, with Alt they change the size.
        </p>
        <div className="mt-auto flex flex-col gap-1.5 pt-2">
          <Button main className="py-2" disabled={!changed || isLoading} onClick={() => apply([clip.id])}>
            Crop this clip
          </Button>
          {ticked.length > 0 && <Button onClick={() => apply(ticked.map((r) => r.id))}>Crop the {plural(ticked.length, 'ticked clip')} of this shape</Button>}
          {same.length > 1 && (
            <Button onClick={() => apply([clip.id], true)}>
              Crop all {same.length} of {clip.width}×{clip.height}
            </Button>
          )}
          {clip.crop && (
            <Button quiet onClick={() => void put([clip.id], null)}>
              Show all of it again
            </Button>
          )}
        </div>
      </aside>
    </div>
  )
}

type Grip = 'move' | 'nw' | 'ne' | 'sw' | 'se'

/** The picture with the crop over it: one tab stop, arrows inside. */
function Picture({
  src,
  shot,
  clip,
  crop,
  onCrop,
  onMove,
}: {
  src: string | undefined
  shot: number
  clip: ClipRow
  crop: Crop
  onCrop: (c: Crop) => void
  onMove: (c: Crop) => void
}) {
  const box = useRef<HTMLDivElement>(null)
  const drag = useRef<{ grip: Grip; x: number; y: number; from: Crop } | null>(null)
  const within = (v: number, most: number) => Math.max(0, Math.min(most, v))
  const begin = (grip: Grip) => (e: PointerEvent) => {
    e.stopPropagation()
    e.currentTarget.setPointerCapture(e.pointerId)
    drag.current = { grip, x: e.clientX, y: e.clientY, from: crop }
  }
  const move = (e: PointerEvent) => {
    const d = drag.current
    const r = box.current?.getBoundingClientRect()
    if (!d || !r) return
    const dx = ((e.clientX - d.x) / r.width) * clip.width
    const dy = ((e.clientY - d.y) / r.height) * clip.height
    const f = d.from
    if (d.grip === 'move') {
      onMove({ ...f, x: within(f.x + dx, clip.width - f.width), y: within(f.y + dy, clip.height - f.height) })
      return
    }
    const left = d.grip.endsWith('w')
    const up = d.grip.startsWith('n')
    const x = left ? within(f.x + dx, f.x + f.width - 16) : f.x
    const y = up ? within(f.y + dy, f.y + f.height - 16) : f.y
    onCrop({
      x,
      y,
      width: left ? f.x + f.width - x : Math.max(16, Math.min(clip.width - f.x, f.width + dx)),
      height: up ? f.y + f.height - y : Math.max(16, Math.min(clip.height - f.y, f.height + dy)),
    })
  }
  const end = () => {
    drag.current = null
  }
  const nudge = (e: KeyboardEvent) => {
    const by = e.shiftKey ? 20 : 2
    const [dx, dy] = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, -by], ArrowDown: [0, by] }[e.key] ?? [0, 0]
    if (dx === 0 && dy === 0) return
    e.preventDefault()
    if (e.altKey) onCrop({ ...crop, width: within(crop.width + dx, clip.width - crop.x), height: within(crop.height + dy, clip.height - crop.y) })
    else onMove({ ...crop, x: within(crop.x + dx, clip.width - crop.width), y: within(crop.y + dy, clip.height - crop.height) })
  }
  const p = (v: number, of: number) => `${(100 * v) / of}%`
  const at = { left: p(crop.x, clip.width), top: p(crop.y, clip.height), width: p(crop.width, clip.width), height: p(crop.height, clip.height) }
  return (
    <div
      ref={box}
      className="relative max-h-full w-full touch-none overflow-hidden select-none"
      style={{ aspectRatio: shot, maxWidth: `min(100%, calc((100vh - 190px) * ${shot}))` }}
    >
      {src && <img src={src} alt={`${clip.name}, whole`} draggable={false} className="block h-full w-full" />}
      <div
        role="application"
        aria-label={`Crop: ${Math.round(crop.width)} by ${Math.round(crop.height)} at ${Math.round(crop.x)}, ${Math.round(crop.y)}. Arrows move it, with Alt they change its size.`}
        tabIndex={0}
        onKeyDown={nudge}
        onPointerDown={begin('move')}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={end}
        className="absolute cursor-move shadow-[0_0_0_9999px_rgba(0,0,0,0.6)] outline-2 outline-white focus-visible:outline-zest"
        style={at}
      >
        {(['nw', 'ne', 'sw', 'se'] as const).map((g) => (
          <span
            key={g}
            aria-hidden
            onPointerDown={begin(g)}
            onPointerMove={move}
            onPointerUp={end}
            className={`absolute h-3.5 w-3.5 border border-black bg-white ${g.startsWith('n') ? 'top-0' : 'bottom-0'} ${g.endsWith('w') ? 'left-0' : 'right-0'} ${g === 'nw' || g === 'se' ? 'cursor-nwse-resize' : 'cursor-nesw-resize'}`}
          />
        ))}
      </div>
    </div>
  )
}
