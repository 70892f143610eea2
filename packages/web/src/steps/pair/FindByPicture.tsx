/** An event looked for by its pictures, among all originals that have fingerprints; what is found is taken at its very frame. */
import { addressOf, type CutDetail, type EventShape, routes } from '@naranja/contract'
import { ScanSearch } from 'lucide-react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, number, perCent, plural } from '../../ui/index.ts'

interface Props {
  cut: CutDetail
  event: EventShape
  open: boolean
  onOpen: () => void
  onTake: (clipId: string, first: number) => void
}

export function FindByPicture({ cut, event, open, onOpen, onTake }: Props) {
  const projectId = useProjectId()
  const { currentData: seen, error, isFetching } = api.useSightingsQuery({ cutId: cut.id, event: event.id }, { skip: !open })
  const [start, { isLoading }] = api.useStartPrintsMutation()
  const act = useAct()
  if (!open)
    return (
      <span>
        <Button onClick={onOpen}>
          <ScanSearch size={13} aria-hidden /> Find by picture <span className="rounded border border-current px-1 font-mono text-[11px]">P</span>
        </Button>
      </span>
    )
  if (error) return <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>
  if (!seen) return <p className="m-0 text-ink-3">{isFetching ? 'Looking for its pictures.' : ''}</p>
  return (
    <section aria-label="Found by picture" className="flex flex-col gap-1">
      {seen.found.map((f) => (
        <div key={`${f.clipId} ${f.first}`} className="flex items-center gap-2 rounded-md bg-raised px-2 py-1">
          <img
            src={addressOf(routes.clipStill, { clipId: f.clipId, frame: f.first, width: 160 })}
            alt={`${f.name}, frame ${f.first}`}
            className="h-[36px] w-[64px] flex-none bg-well object-contain"
          />
          <span className="min-w-0 flex-1">
            <span className="block overflow-hidden text-ellipsis whitespace-nowrap" title={`${f.place}${f.name}`}>
              {f.name}
            </span>
            <span className="text-ink-3">
              {perCent(f.likeness)} from frame {f.first}
            </span>
          </span>
          <Button onClick={() => onTake(f.clipId, f.first)} aria-label={`Take ${f.name} from frame ${f.first}`}>
            Take
          </Button>
        </div>
      ))}
      {seen.found.length === 0 && (
        <p className="m-0 text-ink-2">{seen.printed === 0 ? 'No original has fingerprints yet.' : 'No original has pictures like these.'}</p>
      )}
      <p className="m-0 flex flex-wrap items-center gap-2 text-ink-3">
        {seen.printed < seen.clips && `${number(seen.printed)} of ${plural(seen.clips, 'original')} ${seen.printed === 1 ? 'has' : 'have'} fingerprints. `}
        {seen.making ? (
          'More are being made.'
        ) : seen.printed < seen.clips ? (
          <Button disabled={isLoading} onClick={() => void act(start({ projectId: projectId, fine: false }), (s) => s.message, projectId)}>
            Make the others
          </Button>
        ) : (
          seen.fine < seen.clips && (
            <Button
              disabled={isLoading}
              title="Fingerprints of every third frame, for shots so short that they fall between two"
              onClick={() => void act(start({ projectId: projectId, fine: true }), (s) => s.message, projectId)}
            >
              Make finer fingerprints
            </Button>
          )
        )}
      </p>
    </section>
  )
}
