/** Says that only some events are looked at, and shows all of them again. */
import { X } from 'lucide-react'
import type { ReactNode } from 'react'

/** `which`: whose events, as its name for those who hear it. */
export function Only({ which, onAll, children }: { which: string; onAll: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={`Only ${which}: show all again`}
      onClick={onAll}
      className="inline-flex max-w-[260px] items-center gap-1.5 rounded-md border border-ink-3 bg-raised px-2 py-0.5 text-ink hover:border-ink"
    >
      <span className="truncate">only {children}</span> <X size={12} aria-hidden />
    </button>
  )
}
