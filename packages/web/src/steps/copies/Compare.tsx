/** An original and a copy of it at the same frame: side by side, one wiped over the other, or pixel by pixel; with scopes of both. */
import { addressOf, type ClipRow, type CopyBrief, routes } from '@naranja/contract'
import { type KeyboardEvent, type PointerEvent, useEffect, useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import { api } from '../../api/index.ts'
import { selectClip, useAppDispatch, useAppSelector, useProjectId } from '../../state/index.ts'
import {
  Choice,
  clipStill,
  type Column,
  CopyMark,
  copyStill,
  Empty,
  FrameSlider,
  frameText,
  isThere,
  plural,
  RowList,
  useStill,
  Select,
} from '../../ui/index.ts'
import { pointIn, Scopes } from '../../viewer/index.ts'

const there = (c: ClipRow['copies'][number]): boolean => isThere(c) || (c.state === 'unchecked' && !c.away)
const modes = [
  ['side', 'Side by side'],
  ['wipe', 'Wipe'],
  ['pixels', '1:1'],
] as const
type Mode = (typeof modes)[number][0]
interface Point {
  readonly x: number
  readonly y: number
}

export function Compare({ rows }: { rows: readonly ClipRow[] }) {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const selected = useAppSelector((s) => s.face.clipId)
  const copied = useMemo(() => rows.filter((r) => r.copies.some((c) => there(c))), [rows])
  const clip = copied.find((r) => r.id === selected) ?? copied[0]
  const columns = useMemo(
    (): Column<ClipRow>[] => [
      { head: 'Clip', width: 'minmax(150px,1fr)', look: 'mono', cell: (r) => r.name },
      { head: 'Copies', width: '54px', look: 'mono text-right text-ink-2', cell: (r) => r.copies.filter((c) => there(c)).length },
    ],
    [],
  )
  if (!clip)
    return (
      <Empty
        guide="/guide/edit-copies"
        title="Nothing to compare yet"
        action={
          <Link to={`/p/${projectId}/copies`} className="text-ink underline">
            Make edit copies first
          </Link>
        }
      >
        Once a clip has an edit copy, both can be looked at here at the same frame, for focus and colour.
      </Empty>
    )
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[248px_minmax(0,1fr)]">
      <div className="flex min-h-0 min-w-0 flex-col border-r border-line">
        <RowList
          label="Clips with copies"
          keys="Clips"
          rows={copied}
          id={(r) => r.id}
          columns={columns}
          selected={clip.id}
          onSelect={(r) => dispatch(selectClip(r.id))}
        />
      </div>
      <Bench key={clip.id} clip={clip} />
    </div>
  )
}

function Bench({ clip }: { clip: ClipRow }) {
  const { data } = api.useClipQuery(clip.id)
  const copies = data?.edits.filter((e) => there(e)) ?? []
  const [chosen, setChosen] = useState('')
  const copy = copies.find((c) => c.id === chosen) ?? copies[0]
  const [mode, setMode] = useState<Mode>('side')
  const [frame, setFrame] = useState(Math.floor(clip.frames / 2))
  const [scopes, setScopes] = useState(true)
  const [point, setPoint] = useState<Point | null>(null)
  const shape = (clip.width * clip.pixelAspect) / clip.height
  const go = (to: number) => setFrame(Math.max(0, Math.min(clip.frames - 1, to)))
  const keys = (e: KeyboardEvent) => {
    if (e.target instanceof HTMLElement && /^(INPUT|SELECT)$/.test(e.target.tagName)) return
    const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key]
    if (by) go(frame + by * (e.shiftKey ? 10 : 1))
    else if (e.key === 'Home') go(0)
    else if (e.key === 'End') go(clip.frames - 1)
    else return
    e.preventDefault()
  }
  return (
    <section aria-label={`${clip.name} and its copy`} className="flex min-h-0 min-w-0 flex-col">
      <div className="flex items-center gap-3 border-b border-line px-3 py-1.5">
        <Select label="Copy" className="max-w-[230px]" value={copy?.id ?? ''} onChange={setChosen} options={copies.map((c) => [c.id, c.specName] as const)} />
        <Choice label="How they are shown" value={mode} onChange={setMode} options={modes} />
        <label className="ml-auto flex items-center gap-2 text-ink-2">
          <input type="checkbox" className="accent-zest" checked={scopes} onChange={(e) => setScopes(e.target.checked)} /> Scopes of both
        </label>
      </div>
      <div
        role="group"
        aria-label="Pictures; arrows step frame by frame"
        tabIndex={0}
        onKeyDown={keys}
        className="flex min-h-0 flex-1 flex-col outline-offset-[-2px]"
      >
        {copy && mode === 'side' && <SideBySide clip={clip} copy={copy} frame={frame} shape={shape} onPoint={setPoint} />}
        {copy && mode === 'wipe' && <Wipe clip={clip} copy={copy} frame={frame} shape={shape} />}
        {copy && mode === 'pixels' && <Pixels clip={clip} copy={copy} frame={frame} shape={shape} />}
      </div>
      <div className="flex items-center gap-3 border-t border-line px-3 py-1.5">
        <FrameSlider clip={clip} frame={frame} onFrame={go} />
        <span className="mono w-[150px] text-right text-ink-3">{frameText(frame, clip.frames)}</span>
      </div>
      {scopes && copy && (
        <div className="grid flex-none grid-cols-2">
          <Scopes clipId={clip.id} frame={frame} viewing="originals" look={null} shownAs={clip.shownAs} point={point} low="the original" />
          <Scopes clipId={clip.id} frame={frame} viewing="originals" look={null} shownAs={clip.shownAs} point={point} copy={copy.id} low={copy.specName} />
        </div>
      )}
    </section>
  )
}

interface ComparedFrame {
  readonly clip: ClipRow
  readonly copy: CopyBrief
  readonly frame: number
  readonly shape: number
}
const width = 960
const useBoth = ({ clip, copy, frame }: ComparedFrame) => {
  const original = useStill(clipStill(clip, frame, width, 'originals'))
  const made = useStill(copyStill(clip.id, copy.id, frame, width))
  return [original, made] as const
}

function Caption({ name, note, copy }: { name: string; note: string; copy?: CopyBrief }) {
  return (
    <figcaption className="flex h-7 flex-none items-center gap-2 px-3 whitespace-nowrap">
      {copy && <CopyMark state={copy.state} />}
      <b className="overflow-hidden font-[650] text-ellipsis">{name}</b>
      <span className="mono ml-auto text-xs text-ink-3">{note}</span>
    </figcaption>
  )
}
const originalNote = (c: ClipRow): string => `${c.width}×${c.height}, ${c.depth} bit ${c.chroma}`

function SideBySide(p: ComparedFrame & { onPoint: (p: Point | null) => void }) {
  const [original, made] = useBoth(p)
  return (
    <div className="grid min-h-0 flex-1 grid-cols-2">
      {(
        [
          [original, 'Original', originalNote(p.clip), undefined],
          [made, p.copy.specName, p.copy.part ? plural(1, 'range') : '', p.copy],
        ] as const
      ).map(([src, name, note, copy], i) => (
        <figure key={copy ? 'copy' : 'original'} className={`m-0 flex min-h-0 min-w-0 flex-col ${i === 0 ? 'border-r border-line' : ''}`}>
          <Caption name={name} note={note} {...(copy ? { copy } : {})} />
          {/* Both are pointed at together, by the same share of the picture. */}
          <div className="min-h-0 flex-1 bg-well" onPointerMove={(e) => p.onPoint(pointIn(e, p.shape))} onPointerLeave={() => p.onPoint(null)}>
            {src && <img src={src} alt={`${name}, frame ${p.frame}`} className="h-full w-full object-contain" />}
          </div>
        </figure>
      ))}
    </div>
  )
}

/** The original at the left of a line, the copy at its right; the line is dragged, or moved by its slider. */
function Wipe(p: ComparedFrame) {
  const { clip, copy, frame } = p
  const whole = { clipId: clip.id, frame, x: 0, y: 0, width: clip.width, height: clip.height, most: width }
  // A copy that shows a part of the picture is laid back to where that part lies.
  const original = useStill(clipStill(clip, frame, width, 'originals'))
  const made = useStill(clip.crop ? addressOf(routes.clipPart, { ...whole, copy: copy.id }) : copyStill(clip.id, copy.id, frame, width))
  const [at, setAt] = useState(0.5)
  const [dragging, setDragging] = useState(false)
  const move = (e: PointerEvent<HTMLDivElement>) => {
    const box = e.currentTarget.getBoundingClientRect()
    const w = Math.min(box.width, box.height * p.shape)
    setAt(Math.max(0, Math.min(1, (e.clientX - box.left - (box.width - w) / 2) / w)))
  }
  return (
    <figure className="m-0 flex min-h-0 flex-1 flex-col">
      <figcaption className="flex h-7 flex-none items-center gap-3 px-3">
        <b className="font-[650]">Original</b>
        <input
          type="range"
          aria-label="Line between original and copy"
          min={0}
          max={1000}
          value={Math.round(at * 1000)}
          onChange={(e) => setAt(e.target.valueAsNumber / 1000)}
          className="min-w-0 flex-1 accent-zest"
        />
        <b className="flex items-center gap-2 font-[650]">
          <CopyMark state={p.copy.state} /> {p.copy.specName}
        </b>
      </figcaption>
      <div
        className="grid min-h-0 flex-1 cursor-ew-resize place-items-center bg-well [container-type:size]"
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId)
          setDragging(true)
          move(e)
        }}
        onPointerMove={(e) => dragging && move(e)}
        onPointerUp={() => setDragging(false)}
      >
        {/* As large as fits, in the picture's own shape. */}
        <div className="relative" style={{ aspectRatio: p.shape, width: `min(100cqw, ${100 * p.shape}cqh)` }}>
          {made && <img src={made} alt={`${p.copy.specName}, frame ${p.frame}`} draggable={false} className="absolute inset-0 h-full w-full object-fill" />}
          {original && (
            <img
              src={original}
              alt={`Original, frame ${p.frame}`}
              draggable={false}
              className="absolute inset-0 h-full w-full object-fill"
              style={{ clipPath: `inset(0 ${100 - 100 * at}% 0 0)` }}
            />
          )}
          <div className="pointer-events-none absolute inset-y-0 w-px bg-white shadow-[0_0_0_1px_#000]" style={{ left: `${100 * at}%` }} />
        </div>
      </div>
    </figure>
  )
}

/** The same part of both at the original's pixels; it is dragged, moved by keys, or chosen in the small picture. */
function Pixels({ clip, copy, frame, shape }: ComparedFrame) {
  const box = useRef<HTMLDivElement>(null)
  const [size, setSize] = useState({ width: 0, height: 0 })
  const [centre, setCentre] = useState<Point>({ x: 0.5, y: 0.5 })
  const drag = useRef<{ x: number; y: number; from: Point } | null>(null)
  useEffect(() => {
    if (!box.current) return
    const watch = new ResizeObserver(([e]) => e && setSize({ width: Math.floor(e.contentRect.width / 2), height: Math.floor(e.contentRect.height) }))
    watch.observe(box.current)
    return () => watch.disconnect()
  }, [])
  const part = useMemo(() => {
    const w = Math.max(16, Math.min(clip.width, 2048, Math.round(size.width / clip.pixelAspect)))
    const h = Math.max(16, Math.min(clip.height, 2048, size.height))
    const even = (v: number) => Math.floor(v / 2) * 2
    const clamp = (v: number, room: number) => Math.max(0, Math.min(room, even(v)))
    return { x: clamp(centre.x * clip.width - w / 2, clip.width - w), y: clamp(centre.y * clip.height - h / 2, clip.height - h), width: w, height: h }
  }, [clip, size, centre])
  // Who drags is not held up: what is let go of is fetched.
  const [asked, setAsked] = useState(part)
  useEffect(() => {
    const t = setTimeout(() => setAsked(part), 120)
    return () => clearTimeout(t)
  }, [part])
  const at = { clipId: clip.id, frame, ...asked }
  const ready = size.width > 16 && size.height > 16
  const original = useStill(ready ? addressOf(routes.clipPart, { ...at, as: clip.shownAs || undefined }) : '')
  const made = useStill(ready ? addressOf(routes.clipPart, { ...at, copy: copy.id }) : '')
  const small = useStill(clipStill(clip, frame, 240, 'originals'))
  const by = (dx: number, dy: number) =>
    setCentre((c) => ({ x: Math.max(0, Math.min(1, c.x + dx / clip.width)), y: Math.max(0, Math.min(1, c.y + dy / clip.height)) }))
  const keys = (e: KeyboardEvent) => {
    const d = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key]
    if (!d) return
    e.preventDefault()
    e.stopPropagation()
    by((d[0] ?? 0) * 40, (d[1] ?? 0) * 40)
  }
  return (
    <div
      ref={box}
      className="relative grid min-h-0 flex-1 cursor-grab grid-cols-2 overflow-hidden bg-well"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        drag.current = { x: e.clientX, y: e.clientY, from: centre }
      }}
      onPointerMove={(e) => {
        const d = drag.current
        if (d)
          setCentre({
            x: Math.max(0, Math.min(1, d.from.x - (e.clientX - d.x) / (clip.width * clip.pixelAspect))),
            y: Math.max(0, Math.min(1, d.from.y - (e.clientY - d.y) / clip.height)),
          })
      }}
      onPointerUp={() => {
        drag.current = null
      }}
    >
      {(
        [
          [original, 'Original'],
          [made, copy.specName],
        ] as const
      ).map(([src, name], i) => (
        <figure key={name} className={`relative m-0 grid min-w-0 place-items-center overflow-hidden ${i === 0 ? 'border-r border-black' : ''}`}>
          {src && <img src={src} alt={`${name}, frame ${frame}, pixel by pixel`} draggable={false} className="max-w-none [image-rendering:pixelated]" />}
          <figcaption className="absolute bottom-0 left-0 bg-black/60 px-2 py-0.5 text-[#eee]">{name}</figcaption>
        </figure>
      ))}
      {small && (
        <div
          role="slider"
          tabIndex={0}
          aria-label="Part of the picture; arrows move it"
          aria-valuenow={Math.round(centre.x * 100)}
          aria-valuetext={`${part.x}, ${part.y} of ${clip.width}×${clip.height}`}
          onKeyDown={keys}
          onPointerDown={(e) => {
            e.stopPropagation()
            const p = pointIn(e, shape)
            if (p) setCentre(p)
          }}
          className="absolute top-2 right-2 w-[150px] cursor-crosshair border border-black shadow-[0_0_0_1px_#fff8]"
          style={{ aspectRatio: shape }}
        >
          <img src={small} alt="" draggable={false} className="h-full w-full" />
          <div
            className="absolute border border-white shadow-[0_0_0_1px_#000]"
            style={{
              left: `${(100 * part.x) / clip.width}%`,
              top: `${(100 * part.y) / clip.height}%`,
              width: `${(100 * part.width) / clip.width}%`,
              height: `${(100 * part.height) / clip.height}%`,
            }}
          />
        </div>
      )}
    </div>
  )
}
