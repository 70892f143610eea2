/** The part of each picture that edit copies show: drawn, nudged or typed; for a clip, the ticked ones, or all of a shape. */
import type { ClipRow, CropShape } from '@naranja/contract'
import type { Crop } from '@naranja/core/framing'
import { useMemo, useRef, useState } from 'react'
import { api } from '../../api/index.ts'
import { selectClip, useAct, useAppDispatch, useAppSelector, useProject, useProjectId } from '../../state/index.ts'
import { Button, clipStill, type Column, Field, Figure, FrameSlider, inputLook, plural, RowList, useStill, Select } from '../../ui/index.ts'
import { CropPicture } from './CropPicture.tsx'
import { type Aspect, aspectOf, aspects, isWhole, ofAspect, typed, wholeOf } from './cropping.ts'

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

function Drawing({ clip, rows }: { clip: ClipRow; rows: readonly ClipRow[] }) {
  const projectId = useProjectId()
  const project = useProject()
  const { pixelAspect } = clip
  const [crop, setCropNow] = useState<Crop>(clip.crop ?? wholeOf(clip))
  const shot = (clip.width * pixelAspect) / clip.height
  const [aspect, setAspect] = useState<Aspect>('free')
  const held = aspectOf(aspect, shot)
  const [share, setShare] = useState(0.5)
  const frame = Math.round(share * (clip.frames - 1))
  const still = useStill(clipStill(clip, frame, 1280, 'originals'))
  const [send, { isLoading }] = api.useSetCropMutation()
  const act = useAct()
  const same = rows.filter((r) => r.width === clip.width && r.height === clip.height)
  const ticked = rows.filter((r) => r.ticked && r.width === clip.width && r.height === clip.height)
  const full = isWhole(clip, crop)
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
          <CropPicture src={still} shot={shot} clip={clip} crop={crop} held={held} onCrop={setCropNow} />
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
            <Select
              id={id}
              value={aspect}
              onChange={(v) => {
                const a = v as Aspect
                setAspect(a)
                setCropNow(ofAspect(clip, crop, aspectOf(a, shot)))
              }}
            >
              {aspects.map((a) => (
                <option key={a} value={a}>
                  {a === 'free' ? 'free' : a === 'as shot' ? `as shot (${shot.toFixed(2)})` : a}
                </option>
              ))}
            </Select>
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
                    if (Number.isFinite(v) && v >= 0) setCropNow(typed(clip, crop, k, v, held))
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
