/** One event of a master: the frame that came out worst beside its source. */
import { addressOf, type MasterRow, routes } from '@naranja/contract'
import { perCent, plural } from '../../ui/index.ts'

type EventProof = NonNullable<MasterRow['report']>['events'][number]

export function Sheet({ masterId, event: e }: { masterId: string; event: EventProof }) {
  const worst = [...e.points].sort((a, b) => a.likeness - b.likeness)[0]
  if (!worst) return null
  const wrong = e.points.filter((p) => !p.passed)
  return (
    <figure className={`m-0 overflow-hidden rounded-md border bg-panel ${wrong.length ? 'border-pomegranate' : 'border-line'}`}>
      <div className="grid grid-cols-2 gap-0.5 bg-well">
        <img
          loading="lazy"
          className="aspect-video w-full object-contain"
          alt={`rendered, frame ${worst.frame}`}
          src={addressOf(routes.masterStill, { masterId, frame: worst.frame, width: 400 })}
        />
        {worst.clipId && worst.sourceFrame !== null ? (
          <img
            loading="lazy"
            className="aspect-video w-full object-contain"
            alt={`source, frame ${worst.sourceFrame}`}
            src={addressOf(routes.clipStill, { clipId: worst.clipId, frame: Math.max(0, worst.sourceFrame), width: 400, viewing: 'originals' })}
          />
        ) : (
          <span className="flex items-center justify-center text-[#bcbcbc]">{e.source}</span>
        )}
      </div>
      <figcaption className="px-2 py-1.5 text-xs text-ink-2">
        <span className="flex justify-between">
          <span>rendered, {worst.at} frame</span>
          <span className="overflow-hidden text-ellipsis whitespace-nowrap">{e.source}</span>
        </span>
        <span className="flex justify-between">
          <span className="mono text-ink">
            event {e.number} · {perCent(e.worst)}
          </span>
          <span className={wrong.length ? 'text-pomegranate' : ''}>
            {wrong.length ? wrong.map((w) => (w.offset ? `${w.at} is ${plural(Math.abs(w.offset), 'frame')} off` : `${w.at} differs`)).join(', ') : e.note}
          </span>
        </span>
      </figcaption>
    </figure>
  )
}
