/** Says that a card is in which this project has not taken in yet, and offers to: by an intake that is kept, or as a person chooses. */
import { useState } from 'react'
import { HardDrive } from 'lucide-react'
import { api } from '../../api/index.ts'
import { showAdding, useAct, useAppDispatch, useProjectId } from '../../state/index.ts'
import { Button } from '../../ui/index.ts'

export function CardNotice() {
  const projectId = useProjectId()
  const { data: volumes } = api.useVolumesQuery({ projectId })
  const { data: backups } = api.useBackupsQuery(projectId)
  const { data: intakes } = api.useIntakesQuery(projectId)
  const [left, setLeft] = useState<readonly string[]>([])
  const [takeIn, { isLoading }] = api.useTakeInMutation()
  const act = useAct()
  const dispatch = useAppDispatch()
  const cards = volumes?.filter((v) => v.here && v.removable && v.clips === 0 && !left.includes(v.id) && !backups?.some((b) => b.sourceVolumeId === v.id)) ?? []
  const [card] = cards
  if (!card || !backups || !intakes) return null
  const place = { volumeId: card.id, ref: '', name: card.label }
  return (
    <div role="status" className="flex flex-none items-center gap-2 border-b border-line bg-panel px-4 py-2">
      <HardDrive size={16} className="flex-none text-ink-2" aria-hidden />
      <span className="min-w-0 flex-1">
        The card <b className="font-[650]">{card.label}</b> is in, and has not been taken in.
      </span>
      {intakes.kept.map(({ name, ...plan }) => (
        <Button
          key={name}
          main
          disabled={isLoading}
          onClick={() => void act(takeIn({ projectId, folders: [{ volumeId: card.id, ref: '' }], ...plan }), (s) => s.message)}
        >
          Take in by {name}
        </Button>
      ))}
      <Button main={intakes.kept.length === 0} onClick={() => dispatch(showAdding({ ticked: [place] }))}>
        Take in …
      </Button>
      <Button quiet onClick={() => setLeft([...left, card.id])}>
        Not now
      </Button>
    </div>
  )
}
