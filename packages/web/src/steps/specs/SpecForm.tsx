/** Every setting of a spec, with what it breaks beside it. */
import type { SpecDraft } from '@naranja/contract'
import { carriedText, codingOf, codings, faultsOf, places, soundNames, type SpecFault, warningsOf, wrapperOf, wrappers } from '@naranja/core/specs'
import { Plus, X } from 'lucide-react'
import type { ReactNode } from 'react'
import { base64Of, Button, Choice, Field, inputLook, NoticeMark } from '../../ui/index.ts'
import { codingsOf, families, following, specOfDraft } from './draft.ts'

type Set = (patch: Partial<SpecDraft>) => void

/** What a setting breaks, in words. */
function Told({ list, field, fault }: { list: readonly SpecFault[]; field: keyof SpecDraft; fault?: boolean }) {
  return list
    .filter((f) => f.field === field)
    .map((f) => (
      <p key={f.text} role={fault ? 'alert' : undefined} className={`m-0 flex gap-1.5 text-xs ${fault ? 'text-pomegranate' : 'text-ink-2'}`}>
        <span className="mt-px">
          <NoticeMark severity={fault ? 'error' : 'warning'} />
        </span>
        {f.text}
      </p>
    ))
}

function Section({ title, children, open = true }: { title: string; children: ReactNode; open?: boolean }) {
  return (
    <details open={open} className="group border-b border-line/70 py-2">
      <summary className="cursor-pointer list-none font-[650] before:mr-1.5 before:inline-block before:text-ink-3 before:content-['▸'] group-open:before:rotate-90">
        {title}
      </summary>
      <div className="mt-2 flex flex-col gap-2">{children}</div>
    </details>
  )
}

function Tick({ on, onChange, children }: { on: boolean; onChange: (on: boolean) => void; children: ReactNode }) {
  return (
    <label className="flex items-center gap-2">
      <input type="checkbox" className="accent-zest" checked={on} onChange={(e) => onChange(e.target.checked)} /> {children}
    </label>
  )
}

function Pick<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  onChange: (v: T) => void
}) {
  return (
    <Field label={label}>
      {(id) => (
        <select id={id} className={inputLook} value={value} onChange={(e) => onChange(e.target.value as T)}>
          {options.map(([v, text]) => (
            <option key={v} value={v}>
              {text}
            </option>
          ))}
        </select>
      )}
    </Field>
  )
}

function NumberField({
  label,
  value,
  onChange,
  least,
  most,
  unit,
}: {
  label: string
  value: number
  onChange: (v: number) => void
  least: number
  most: number
  unit?: string
}) {
  return (
    <Field label={label}>
      {(id) => (
        <span className="flex items-center gap-1.5">
          <input
            id={id}
            type="number"
            min={least}
            max={most}
            className={`${inputLook} mono w-full`}
            value={value}
            onChange={(e) => Number.isFinite(e.target.valueAsNumber) && onChange(Math.round(e.target.valueAsNumber))}
          />
          {unit && <span className="text-ink-3">{unit}</span>}
        </span>
      )}
    </Field>
  )
}

export function SpecForm({ draft, onChange, onNamed }: { draft: SpecDraft; onChange: (d: SpecDraft) => void; onNamed: () => void }) {
  const spec = specOfDraft(draft)
  const faults = faultsOf(spec)
  const warnings = warningsOf(spec)
  const c = codingOf(draft.coding)
  const w = wrapperOf(draft.wrapper)
  const set: Set = (patch) => onChange(following({ ...draft, ...patch }))
  const told = (field: keyof SpecDraft) => (
    <>
      <Told list={faults} field={field} fault />
      <Told list={warnings} field={field} />
    </>
  )
  return (
    <div className="flex flex-col">
      <Section title="What it is for">
        <Field label="Name">
          {(id) => (
            <input
              id={id}
              className={inputLook}
              value={draft.name}
              maxLength={100}
              onChange={(e) => set({ name: e.target.value })}
              onBlur={onNamed}
              onKeyDown={(e) => e.key === 'Enter' && onNamed()}
            />
          )}
        </Field>
        {told('name')}
        <Field label="Purpose">
          {(id) => <input id={id} className={inputLook} value={draft.purpose} maxLength={300} onChange={(e) => set({ purpose: e.target.value })} />}
        </Field>
        <Choice
          label="Kind"
          value={draft.kind}
          onChange={(kind) => set({ kind })}
          options={[
            ['proxy', 'Proxy, light'],
            ['intermediate', 'Intermediate, full quality'],
          ]}
        />
      </Section>

      <Section title="Coding">
        <div className="grid grid-cols-2 gap-2">
          <Pick
            label="Family"
            value={c.family}
            options={families.map((f) => [f, f] as const)}
            onChange={(f) => set({ coding: codingsOf(f)[0]?.code ?? draft.coding })}
          />
          <Pick
            label="Profile"
            value={draft.coding}
            options={codingsOf(c.family).map((x) => [x.code, x.name] as const)}
            onChange={(coding) => set({ coding })}
          />
        </div>
        <p className="m-0 text-xs text-ink-3">
          {c.depth} bit {c.chroma}, {c.intra ? 'every frame is stored on its own' : 'frames depend on one another'}
          {c.fields ? ', fields can be kept' : ''}
        </p>
        {told('coding')}
        {c.scale && (
          <label className="grid grid-cols-[auto_minmax(0,1fr)_28px] items-center gap-2 text-ink-2">
            {c.scale.name}
            <input
              type="range"
              aria-valuetext={`${draft.quality ?? c.scale.usual}, ${c.scale.best === 'low' ? 'less is better' : 'more is better'}`}
              className="accent-zest"
              min={c.scale.least}
              max={c.scale.most}
              value={draft.quality ?? c.scale.usual}
              onChange={(e) => set({ quality: Number(e.target.value) === c.scale?.usual ? null : Number(e.target.value) })}
            />
            <span className="mono text-right text-ink">{draft.quality ?? c.scale.usual}</span>
          </label>
        )}
        {told('quality')}
        <Pick
          label="Wrapper"
          value={draft.wrapper}
          options={wrappers.filter((x) => c.wrappers.includes(x.code)).map((x) => [x.code, x.name] as const)}
          onChange={(wrapper) => set({ wrapper })}
        />
        <p className="m-0 text-xs text-ink-3">{carriedText(w)}</p>
        {told('wrapper')}
      </Section>

      <Section title="Frame">
        <FrameFields draft={draft} set={set} />
        {told('frame')}
        {draft.frame.by === 'exact' && (
          <Choice
            label="Framing"
            value={draft.framing}
            onChange={(framing) => set({ framing })}
            options={[
              ['fit', 'Fit'],
              ['fill', 'Fill'],
              ['stretch', 'Stretch'],
              ['centre', 'Centre 1:1'],
            ]}
          />
        )}
        <Tick on={draft.enlarge} onChange={(enlarge) => set({ enlarge })}>
          Make small pictures larger
        </Tick>
        {told('enlarge')}
        <Tick on={draft.fields === 'deinterlaced'} onChange={(on) => set({ fields: on ? 'deinterlaced' : 'kept' })}>
          Deinterlace (else fields are kept in order)
        </Tick>
        <Pick
          label="Rate"
          value={draft.rate}
          options={[
            ['as-shot', 'As shot, every frame'],
            ['project', "The project's, with a frame map"],
          ]}
          onChange={(rate) => set({ rate })}
        />
        {told('rate')}
        <Tick on={draft.look === 'baked'} onChange={(on) => set({ look: on ? 'baked' : 'left-out' })}>
          Bake in the look that each clip has
        </Tick>
        {told('look')}
        <Tick on={draft.tags === 'written'} onChange={(on) => set({ tags: on ? 'written' : 'kept' })}>
          Write colour tags where the original has none
        </Tick>
      </Section>

      <Section title={draft.burnIns.length ? `Burn-ins (${draft.burnIns.length})` : 'Burn-ins'}>
        <BurnIns draft={draft} set={set} />
        {told('burnIns')}
      </Section>

      <Section title="Sound">
        <SoundFields draft={draft} set={set} />
        {told('sound')}
      </Section>

      <Section title="Names and place" open={draft.naming.before !== '' || draft.naming.after !== '' || draft.place.how === 'beside'}>
        <div className="grid grid-cols-2 gap-2">
          <Field label="Before the name">
            {(id) => (
              <input
                id={id}
                className={`${inputLook} mono`}
                value={draft.naming.before}
                maxLength={40}
                onChange={(e) => set({ naming: { ...draft.naming, before: e.target.value } })}
              />
            )}
          </Field>
          <Field label="After it">
            {(id) => (
              <input
                id={id}
                className={`${inputLook} mono`}
                value={draft.naming.after}
                maxLength={40}
                onChange={(e) => set({ naming: { ...draft.naming, after: e.target.value } })}
              />
            )}
          </Field>
        </div>
        {told('naming')}
        <Pick
          label="Place"
          value={draft.place.how}
          options={[
            ['tree', 'A tree of folders like that of the originals'],
            ['beside', 'A folder beside each original'],
          ]}
          onChange={(how) => set({ place: how === 'tree' ? { how } : { how, folder: 'Edit copies' } })}
        />
        {draft.place.how === 'beside' && (
          <Field label="Folder">
            {(id) => (
              <input
                id={id}
                className={`${inputLook} mono`}
                value={draft.place.how === 'beside' ? draft.place.folder : ''}
                onChange={(e) => set({ place: { how: 'beside', folder: e.target.value } })}
              />
            )}
          </Field>
        )}
        {told('place')}
      </Section>

      <Section title="Receiving program" open={draft.receiver.wrappers.length > 0 || Object.values(draft.receiver).includes(true)}>
        <p className="m-0 text-xs text-ink-3">What the program needs that will edit these copies; the spec is checked against it.</p>
        <fieldset className="m-0 flex flex-wrap gap-x-3 gap-y-1 border-0 p-0">
          <legend className="mb-1 p-0 text-ink-2">It reads only</legend>
          {wrappers.map((x) => (
            <Tick
              key={x.code}
              on={draft.receiver.wrappers.includes(x.code)}
              onChange={(on) =>
                set({
                  receiver: { ...draft.receiver, wrappers: on ? [...draft.receiver.wrappers, x.code] : draft.receiver.wrappers.filter((y) => y !== x.code) },
                })
              }
            >
              {x.code === 'frames' ? 'numbered pictures' : x.code === 'mxf-atom' ? 'mxf by track' : x.code}
            </Tick>
          ))}
        </fieldset>
        <Tick on={draft.receiver.filePerTrack} onChange={(filePerTrack) => set({ receiver: { ...draft.receiver, filePerTrack } })}>
          It wants one file for each track
        </Tick>
        <Tick on={draft.receiver.digitFolders} onChange={(digitFolders) => set({ receiver: { ...draft.receiver, digitFolders } })}>
          It wants folders named by numbers only
        </Tick>
        <Tick on={draft.receiver.comparesExtensions} onChange={(comparesExtensions) => set({ receiver: { ...draft.receiver, comparesExtensions } })}>
          It compares the endings of names
        </Tick>
        {told('receiver')}
      </Section>
      <Section title="Check">
        <Choice
          label="What is read back of the pictures"
          value={draft.check}
          onChange={(check) => set({ check })}
          options={[
            ['every-frame', 'Every frame'],
            ['six-frames', 'Six frames, quicker'],
          ]}
        />
      </Section>
      {w.apart && draft.wrapper !== 'frames' && (
        <p className="m-0 py-2 text-xs text-ink-3">Each copy is a file for the picture and one for each channel of sound.</p>
      )}
    </div>
  )
}

function FrameFields({ draft, set }: { draft: SpecDraft; set: Set }) {
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

function SoundFields({ draft, set }: { draft: SpecDraft; set: Set }) {
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
type What = keyof typeof burnInWords

function BurnIns({ draft, set }: { draft: SpecDraft; set: Set }) {
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

/** Everything that can be chosen, for the list of specs. */
export const codingName = (code: SpecDraft['coding']): string => codings.find((c) => c.code === code)?.name ?? code
