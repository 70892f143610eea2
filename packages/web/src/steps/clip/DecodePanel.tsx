/** How a raw clip becomes a picture: white balance, exposure, and what the screen makes of it. Apart from any look. */
import type { ClipDetail, ProjectDecode } from '@naranja/contract'
import { lightOf, plainDecode, temperatureOf } from '@naranja/core/raw'
import { Pipette } from 'lucide-react'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Choice, plural } from '../../ui/index.ts'
import { Slide } from './Slide.tsx'

type Settings = ProjectDecode['settings']

/** The settings of those names that a part has. */
const partOf = (all: Settings, part: Partial<Settings>): Partial<Settings> => Object.fromEntries(Object.keys(part).map((k) => [k, all[k as keyof Settings]]))

const signed = (v: number): string => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(1)}`

/** `picking`: the next click on the picture says what is grey. */
export function DecodePanel({
  clip,
  chosen,
  picking,
  onPick,
}: {
  clip: ClipDetail
  chosen: readonly string[]
  picking: boolean
  onPick: (on: boolean) => void
}) {
  const projectId = useProjectId()
  const { data: project } = api.useProjectDecodeQuery(projectId)
  const [set] = api.useSetDecodeMutation()
  const [setProject] = api.useSetProjectDecodeMutation()
  const act = useAct()
  const raw = clip.technical.raw
  if (!raw || !project) return null
  const now = clip.decode ?? project.settings
  /** What was seen of this clip is named; other clips get what it has, whatever they had. */
  const put = (settings: Partial<Settings> | null, before?: Partial<Settings>, clipIds = [clip.id]) =>
    void act(set({ projectId, clipIds, settings, ...(before ? { before } : {}) }), undefined, undefined, (other: Settings) =>
      set({ projectId, clipIds, settings, ...(before ? { before: partOf(other, before) } : {}) }),
    )
  const change = (part: Partial<Settings>) => put(part, partOf(now, part))
  const putProject = (part: Partial<ProjectDecode>) => {
    const seen = { projectId, ...project, ...part }
    void act(setProject(seen), part.settings ? (c) => c.sentence : undefined, projectId, (other: ProjectDecode) => setProject({ projectId, ...other, ...part }))
  }
  const others = chosen.filter((id) => id !== clip.id)
  return (
    <section aria-label="Decode settings" className="flex flex-col gap-2 rounded-md border border-line p-2.5">
      <div className="flex items-center gap-2">
        <h3 className="m-0 text-[13px] font-[650]">Raw</h3>
        <span className="text-xs text-ink-3">{clip.decode ? 'settings of its own' : "the project's settings"}</span>
        {clip.decode && (
          <Button quiet className="ml-auto py-0.5" onClick={() => put(null, now)}>
            As the project
          </Button>
        )}
      </div>
      <Balance balance={now.balance} raw={raw} picking={picking} onPick={onPick} onChange={(balance) => change({ balance })} />
      <Slide label="Exposure" value={now.exposure} min={-4} max={4} step={0.1} text={(v) => `${signed(v)} st`} onChange={(exposure) => change({ exposure })} />
      <Slide label="Contrast" value={now.contrast} min={0.5} max={2} step={0.05} text={(v) => v.toFixed(2)} onChange={(contrast) => change({ contrast })} />
      <Slide
        label="Saturation"
        value={now.saturation}
        min={0}
        max={2}
        step={0.05}
        text={(v) => v.toFixed(2)}
        onChange={(saturation) => change({ saturation })}
      />
      <div className="grid grid-cols-[84px_minmax(0,1fr)] items-center gap-2.5">
        <span className="text-ink-3">Size</span>
        <span className="flex">
          <Choice
            label="Decode size"
            value={now.size}
            onChange={(size) => change({ size })}
            options={[
              ['full', 'full'],
              ['half', 'half'],
            ]}
          />
          {now.size === 'half' && <span className="ml-2 self-center text-xs text-ink-3">pulls and masters are made at full size</span>}
        </span>
        <span className="text-ink-3">Highlights</span>
        <span className="flex items-center gap-2">
          <Choice
            label="Highlights of the project"
            value={project.display}
            onChange={(display) => putProject({ display })}
            options={[
              ['screen', 'clipped'],
              ['soft', 'rolled off'],
            ]}
          />
          <span className="text-xs text-ink-3">all raw clips</span>
        </span>
      </div>
      <div className="flex flex-wrap gap-1.5">
        {others.length > 0 && (
          <Button className="py-0.5" onClick={() => put(now, undefined, others)}>
            Copy to {plural(others.length, 'chosen clip')}
          </Button>
        )}
        {clip.decode && (
          <Button className="py-0.5" onClick={() => putProject({ settings: now })}>
            Make it the project's
          </Button>
        )}
        {JSON.stringify(now) !== JSON.stringify(plainDecode) && (
          <Button quiet className="py-0.5" onClick={() => change(plainDecode)}>
            As shot
          </Button>
        )}
      </div>
    </section>
  )
}

interface BalanceProps {
  balance: Settings['balance']
  raw: NonNullable<ClipDetail['technical']['raw']>
  picking: boolean
  onPick: (on: boolean) => void
  onChange: (balance: Settings['balance']) => void
}

/** White balance: as the camera meant it, by temperature, or by something grey in the picture. */
function Balance({ balance: b, raw, picking, onPick, onChange }: BalanceProps) {
  const light = raw.neutral && raw.toCamera ? lightOf(raw.neutral, raw.toCamera) : null
  const shot = light && temperatureOf(light)
  return (
    <>
      <div className="flex items-center gap-2">
        <Choice
          label="White balance"
          value={b.kind}
          onChange={(kind) => {
            if (kind === 'as-shot') onChange({ kind })
            else if (kind === 'temperature') onChange({ kind, kelvin: Math.round((shot?.kelvin ?? 5600) / 50) * 50, tint: Math.round(shot?.tint ?? 0) })
            else onPick(true)
          }}
          options={[['as-shot', 'as shot'], ...(raw.toCamera ? [['temperature', 'temperature'] as const] : []), ['picked', 'a grey']]}
        />
        <Button aria-pressed={picking} aria-label="Point at a grey" title="Point at a grey in the picture" className="px-1.5" onClick={() => onPick(!picking)}>
          <Pipette size={14} />
        </Button>
        {b.kind === 'as-shot' && shot && <span className="mono text-ink-3">{Math.round(shot.kelvin / 10) * 10} K</span>}
      </div>
      {picking && (
        <p className="m-0 text-ink-2">Click on something in the picture that is grey or white; or aim with Shift and the arrow keys, and press Enter.</p>
      )}
      {b.kind === 'temperature' && (
        <>
          <Slide
            label="Temperature"
            value={b.kelvin}
            min={2000}
            max={12_000}
            step={50}
            text={(v) => `${v} K`}
            onChange={(kelvin) => onChange({ ...b, kelvin })}
          />
          <Slide
            label="Tint"
            value={b.tint}
            min={-30}
            max={30}
            step={1}
            text={(v) => `${v > 0 ? '+' : ''}${v}`}
            onChange={(tint) => onChange({ ...b, tint })}
          />
        </>
      )}
    </>
  )
}
