/** The card reader that ships with the application: its cards, in and out. */
import { MemoryStick } from 'lucide-react'
import { api } from '../api/index.ts'
import { useAct } from '../state/index.ts'
import { listHeading } from '../ui/index.ts'

export function CardReader() {
  const { data: cards } = api.useReaderQuery()
  const [use] = api.useCardMutation()
  const act = useAct()
  if (!cards?.length) return null
  const look = 'rounded border border-line px-1.5 py-0.5 text-xs text-ink-2 hover:text-ink'
  return (
    <section aria-label="Card reader" className="mt-2 border-t border-line pt-2">
      <h3 className={listHeading}>Card reader (simulated)</h3>
      <ul className="m-0 list-none p-0">
        {cards.map((c) => (
          <li key={c.name} className="flex items-center gap-1.5 px-1 py-[3px]">
            <MemoryStick size={14} className="flex-none text-ink-3" aria-hidden />
            <span className={`min-w-0 flex-1 overflow-hidden text-ellipsis whitespace-nowrap ${c.inside ? '' : 'text-ink-3'}`}>{c.name}</span>
            {c.inside ? (
              <>
                <button type="button" className={look} aria-label={`Take out ${c.name}`} onClick={() => void act(use({ name: c.name, action: 'take-out' }))}>
                  Take out
                </button>
                <button
                  type="button"
                  className={look}
                  aria-label={`Pull ${c.name}`}
                  title="Pulls it in the middle of whatever reads it: files end short, then vanish"
                  onClick={() => void act(use({ name: c.name, action: 'pull' }))}
                >
                  Pull
                </button>
              </>
            ) : (
              <button type="button" className={look} aria-label={`Put in ${c.name}`} onClick={() => void act(use({ name: c.name, action: 'put-in' }))}>
                Put in
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}
