/** The roll that chosen clips belong to, as a person says; logs of one a roll, the board and the chart follow it. */
import { useState } from 'react'
import { useForm } from 'react-hook-form'
import { api } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Dialog, Field, inputLook, plural } from '../../ui/index.ts'

/** `clips`: with the rolls that they have. */
export function RollDialog({ clips, onClose }: { clips: readonly { id: string; roll: string }[]; onClose: () => void }) {
  const projectId = useProjectId()
  // As they were when this was opened: what somebody else gives them meanwhile is not overwritten unseen.
  const [seen] = useState(() => clips.map((c) => ({ clipId: c.id, roll: c.roll })))
  const clipIds = seen.map((s) => s.clipId)
  const { data: rolls } = api.useClipValuesQuery({ projectId, field: 'roll' })
  const [setRoll, { isLoading }] = api.useSetRollMutation()
  const act = useAct()
  const form = useForm({ defaultValues: { roll: '' } })
  const roll = form.watch('roll').trim()
  return (
    <Dialog open onClose={onClose} title={`Roll of ${plural(clipIds.length, 'clip')}`}>
      <form
        className="flex flex-col gap-3 p-4"
        onSubmit={form.handleSubmit(async () => {
          const mine = { projectId, clipIds, roll }
          if (
            await act(
              setRoll({ ...mine, seen }),
              (c) => c.sentence,
              projectId,
              (now: typeof seen) => setRoll({ ...mine, seen: now }),
            )
          )
            onClose()
        })}
      >
        <Field label="Roll" hint="One that is there, or a new one. Reels stay as they are.">
          {(id) => (
            <>
              <input id={id} list={`${id} rolls`} className={inputLook} maxLength={100} {...form.register('roll')} />
              <datalist id={`${id} rolls`}>{rolls?.map((r) => r.value !== null && <option key={r.value} value={r.value} />)}</datalist>
            </>
          )}
        </Field>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button main type="submit" disabled={roll === '' || isLoading}>
            Set the roll
          </Button>
        </div>
      </form>
    </Dialog>
  )
}
