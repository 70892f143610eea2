/** Asks before a light copy is used as an original: the copy and its original by name, the original as the first choice. */
import type { CandidateShape } from '@naranja/contract'
import { standingText } from '@naranja/core/reconnect'
import { Button, Dialog } from '../../ui/index.ts'

/** How a light copy stands, as a clause that follows its name. */
export const standingWords = ({ standing, of }: NonNullable<CandidateShape['light']>): string => standingText({ light: { standing, of: null, ofName: of } })

export function LightDialog({ candidate, events, onUse, onClose }: { candidate: CandidateShape; events: number; onUse: () => void; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} title="Use a light copy as the original?">
      <div className="flex flex-col gap-3 p-4">
        <p className="m-0">
          <span className="mono">
            {candidate.place}
            {candidate.name}
          </span>{' '}
          {candidate.light && standingWords(candidate.light)}.
        </p>
        <p className="m-0 text-ink-2">
          The master would show the copy's smaller or more compressed picture in {events === 1 ? 'this event' : `these ${events} events`}. The plan and the
          report name it.
        </p>
        <div className="flex flex-wrap justify-end gap-2">
          <Button onClick={onUse}>Use {candidate.name}</Button>
          <Button main onClick={onClose}>
            Keep looking
          </Button>
        </div>
      </div>
    </Dialog>
  )
}
