/** The larger parts of a spec: frame, sound and burn-ins. */
import type { SpecDraft } from '@naranja/contract'
import { codingOf, places, soundNames, wrapperOf } from '@naranja/core/specs'
import { Plus, X } from 'lucide-react'
import { base64Of, Button, Field, inputLook } from '../../ui/index.ts'
import { type SetDraft, Tick, Pick, NumberField } from './fields.tsx'

export function FrameFields({ draft, set }: { draft: SpecDraft; set: SetDraft }) {
  const f = draft.frame
  const c = codingOf(draft.coding)
  if (c.rasters) {
    const sizes = [...new Set(c.rasters.map((r) => `${r.width}×${r.height}`))]
    const now = f.by === 'exact' ? `${f.width}×${f.height}` : (sizes[0] ?? '')
    return (
      <Pick
        label="Size"
        value={now}
        options={sizes.map((s) => [s, s] as const)}
        onChange={(s) => {
          const [width = 0, height = 0] = s.split('×').map(Number)
          set({ frame: { by: 'exact', width, height } })
        }}
      />
    )
  }
  return (
    <>
      <Pick
        label="Size"
        value={f.by}
        options={[
          ['original', "The original's"],
          ['height', 'By height, shape kept'],
          ['width', 'By width, shape kept'],
          ['exact', 'Exactly'],
        ]}
        onChange={(by) =>
          set({
            frame:
              by === 'original' ? { by } : by === 'height' ? { by, height: 1080 } : by === 'width' ? { by, width: 1920 } : { by, width: 1920, height: 1080 },
          })
        }
      />
      {f.by !== 'original' && (
        <div className="grid grid-cols-2 gap-2">
          {f.by !== 'height' && (
            <NumberField
              label="Width"
              unit="px"
              least={16}
              most={16384}
              value={f.width}
              onChange={(width) => set({ frame: f.by === 'exact' ? { ...f, width } : { by: 'width', width } })}
            />
          )}
          {f.by !== 'width' && (
            <NumberField
              label="Height"
              unit="px"
              least={16}
              most={16384}
              value={f.height}
              onChange={(height) => set({ frame: f.by === 'exact' ? { ...f, height } : { by: 'height', height } })}
            />
          )}
        </div>
      )}
    </>
  )
}

export function SoundFields({ draft, set }: { draft: SpecDraft; set: SetDraft }) {
  const s = draft.sound
  const w = wrapperOf(draft.wrapper)
  const sound = (patch: Partial<SpecDraft['sound']>) => set({ sound: { ...s, ...patch } })
  return (
    <>
      <Pick
        label="Channels"
        value={s.channels}
        options={[
          ['all', 'All, as recorded'],
          ['unsilent', 'All that are not silent'],
          ['chosen', 'Chosen by number'],
          ['mix', 'A mix-down of all that are heard'],
          ['none', 'None'],
        ]}
        onChange={(channels) => sound({ channels, chosen: channels === 'chosen' && s.chosen.length === 0 ? [1, 2] : s.chosen })}
      />
      {s.channels === 'chosen' && (
        <Field label="Numbers, from 1" hint="Clips with fewer channels keep those they have.">
          {(id) => (
            <input
              id={id}
              className={`${inputLook} mono`}
              defaultValue={s.chosen.join(', ')}
              onChange={(e) => sound({ chosen: [...new Set(e.target.value.split(/\D+/).map(Number))].filter((n) => n >= 1 && n <= 64) })}
            />
          )}
        </Field>
      )}
      {s.channels !== 'none' && (
        <>
          {!w.apart && s.channels !== 'mix' && (
            <Pick
              label="Streams"
              value={s.streams}
              options={[
                ['as-original', 'As in the original'],
                ['each-alone', 'One for each channel'],
                ['together', 'One for all channels'],
              ]}
              onChange={(streams) => sound({ streams })}
            />
          )}
          <div className="grid grid-cols-2 gap-2">
            <Pick label="Coded as" value={s.coding} options={w.sound.map((x) => [x, soundNames[x]] as const)} onChange={(coding) => sound({ coding })} />
            <Pick
              label="Sample rate"
              value={String(s.rate ?? '')}
              options={[
                ['', w.sampleRates.length ? `${(w.sampleRates[0] ?? 48000) / 1000} kHz` : "The original's"],
                ...(w.sampleRates.length ? [] : ([44100, 48000, 96000].map((r) => [String(r), `${r / 1000} kHz`]) as [string, string][])),
              ]}
              onChange={(r) => sound({ rate: r ? Number(r) : null })}
            />
          </div>
        </>
      )}
    </>
  )
}

const burnInWords = { timecode: 'source timecode', frame: 'frame number', name: 'name', reel: 'reel', text: 'text', image: 'image' } as const

export type What = keyof typeof burnInWords

export function BurnIns({ draft, set }: { draft: SpecDraft; set: SetDraft }) {
  const list = draft.burnIns
  const change = (i: number, patch: Partial<SpecDraft['burnIns'][number]>) => set({ burnIns: list.map((b, j) => (j === i ? { ...b, ...patch } : b)) })
  const free = places.find((p) => !list.some((b) => b.place === p) && /bottom|top/.test(p)) ?? 'bottom'
  const add = (what: What) =>
    set({
      burnIns: [
        ...list,
        {
          what,
          text: what === 'text' ? draft.name : '',
          image: null,
          place: list.length === 0 ? 'bottom' : free,
          size: 5,
          opacity: 90,
          ground: what !== 'image',
        },
      ],
    })
  return (
    <>
      {list.map((b, i) => (
        // Burn-ins have no names of their own; they stand in the order in which they are drawn.
        // biome-ignore lint/suspicious/noArrayIndexKey: see above
        <fieldset key={i} className="m-0 flex flex-col gap-1.5 rounded-md border border-line p-2">
          <legend className="px-1 text-ink-2">{burnInWords[b.what]}</legend>
          {b.what === 'text' && (
            <input aria-label="Text" className={inputLook} value={b.text} maxLength={200} onChange={(e) => change(i, { text: e.target.value })} />
          )}
          {b.what === 'image' && (
            <input
              type="file"
              aria-label="Image file"
              accept="image/png,image/jpeg"
              className="text-xs text-ink-2"
              onChange={async (e) => {
                const f = e.target.files?.[0]
                if (f) change(i, { image: await base64Of(f) })
              }}
            />
          )}
          <div className="grid grid-cols-[minmax(0,1fr)_64px_64px_auto] items-end gap-1.5">
            <Pick label="Place" value={b.place} options={places.map((p) => [p, p] as const)} onChange={(place) => change(i, { place })} />
            <NumberField label="Size %" least={1} most={50} value={b.size} onChange={(size) => change(i, { size: Math.min(50, Math.max(1, size)) })} />
            <NumberField
              label="Opacity %"
              least={5}
              most={100}
              value={b.opacity}
              onChange={(opacity) => change(i, { opacity: Math.min(100, Math.max(5, opacity)) })}
            />
            <Button quiet aria-label={`Remove burn-in ${i + 1}`} onClick={() => set({ burnIns: list.filter((_, j) => j !== i) })}>
              <X size={14} />
            </Button>
          </div>
          {b.what !== 'image' && (
            <Tick on={b.ground} onChange={(ground) => change(i, { ground })}>
              On a dark ground
            </Tick>
          )}
        </fieldset>
      ))}
      {list.length < 8 && (
        <div className="flex flex-wrap gap-1">
          {(Object.keys(burnInWords) as What[]).map((what) => (
            <Button key={what} className="py-0.5" onClick={() => add(what)}>
              <Plus size={12} aria-hidden /> {burnInWords[what]}
            </Button>
          ))}
        </div>
      )}
    </>
  )
}
