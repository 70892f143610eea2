/** Every setting of a spec, with what it breaks beside it. */
import type { SpecDraft } from '@naranja/contract'
import { codings, faultsOf, warningsOf, wrapperOf } from '@naranja/core/specs'
import { Choice } from '../../ui/index.ts'
import { following, specOfDraft } from './draft.ts'
import { type SetDraft, FieldFaults, Section } from './fields.tsx'
import { Purpose, Coding, Frame, NamesAndPlace, Receiver } from './sections.tsx'
import { SoundFields, BurnIns } from './parts.tsx'

export function SpecForm({ draft, onChange, onNamed }: { draft: SpecDraft; onChange: (d: SpecDraft) => void; onNamed: () => void }) {
  const spec = specOfDraft(draft)
  const faults = faultsOf(spec)
  const warnings = warningsOf(spec)
  const w = wrapperOf(draft.wrapper)
  const set: SetDraft = (patch) => onChange(following({ ...draft, ...patch }))
  const told = (field: keyof SpecDraft) => (
    <>
      <FieldFaults list={faults} field={field} fault />
      <FieldFaults list={warnings} field={field} />
    </>
  )
  const parts = { draft, set, told }
  return (
    <div className="flex flex-col">
      <Purpose {...parts} onNamed={onNamed} />
      <Coding {...parts} />
      <Frame {...parts} />
      <Section title={draft.burnIns.length ? `Burn-ins (${draft.burnIns.length})` : 'Burn-ins'}>
        <BurnIns draft={draft} set={set} />
        {told('burnIns')}
      </Section>
      <Section title="Sound">
        <SoundFields draft={draft} set={set} />
        {told('sound')}
      </Section>
      <NamesAndPlace {...parts} />
      <Receiver {...parts} />
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

/** Everything that can be chosen, for the list of specs. */
export const codingName = (code: SpecDraft['coding']): string => codings.find((c) => c.code === code)?.name ?? code
