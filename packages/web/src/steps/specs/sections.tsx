/** The sections of a spec. */
import type { SpecDraft } from '@naranja/contract'
import { carriedText, codingOf, wrapperOf, wrappers } from '@naranja/core/specs'
import type { ReactNode } from 'react'
import { Choice, Field, inputLook } from '../../ui/index.ts'
import { codingsOf, families } from './draft.ts'
import { type SetDraft, Section, Tick, Pick } from './fields.tsx'
import { FrameFields } from './parts.tsx'

/** A spec, what changes it, and what a setting of it breaks. */
interface Parts {
  draft: SpecDraft
  set: SetDraft
  told: (field: keyof SpecDraft) => ReactNode
}

/** What a spec is called, and what it is for. */
export function Purpose({ draft, set, told, onNamed }: Parts & { onNamed: () => void }) {
  return (
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
  )
}

/** How pictures are coded, and in which wrapper they stand. */
export function Coding({ draft, set, told }: Parts) {
  const c = codingOf(draft.coding)
  const w = wrapperOf(draft.wrapper)
  return (
    <Section title="Coding">
      <div className="grid grid-cols-2 gap-2">
        <Pick
          label="Family"
          value={c.family}
          options={families.map((f) => [f, f] as const)}
          onChange={(f) => set({ coding: codingsOf(f)[0]?.code ?? draft.coding })}
        />
        <Pick label="Profile" value={draft.coding} options={codingsOf(c.family).map((x) => [x.code, x.name] as const)} onChange={(coding) => set({ coding })} />
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
  )
}

/** Size, framing, fields, rate, look and colour tags. */
export function Frame({ draft, set, told }: Parts) {
  return (
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
  )
}

/** What copies are called, and where they stand. */
export function NamesAndPlace({ draft, set, told }: Parts) {
  return (
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
  )
}

/** What the program needs that will edit the copies. */
export function Receiver({ draft, set, told }: Parts) {
  return (
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
  )
}
