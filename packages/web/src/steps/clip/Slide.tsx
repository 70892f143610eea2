/** A value that is dragged: shown at once, kept when it is let go. */
import { useEffect, useRef, useState } from 'react'

export function Slide({
  label,
  value,
  min,
  max,
  step,
  text,
  onChange,
}: {
  label: string
  value: number
  min: number
  max: number
  step: number
  text: (v: number) => string
  onChange: (v: number) => void
}) {
  // What is dragged to stands until the answer says the same: keys come faster than answers.
  const [draft, setDraft] = useState<number | null>(null)
  const timer = useRef(0)
  const now = draft ?? value
  useEffect(() => {
    if (draft === value) setDraft(null)
  }, [draft, value])
  useEffect(() => () => window.clearTimeout(timer.current), [])
  const keep = (after: number) => {
    window.clearTimeout(timer.current)
    if (draft === null || draft === value) return
    timer.current = window.setTimeout(() => {
      onChange(draft)
      // An answer that never comes, or says otherwise.
      timer.current = window.setTimeout(() => setDraft(null), 5000)
    }, after)
  }
  return (
    <label className="grid grid-cols-[84px_minmax(0,1fr)_64px] items-center gap-2.5">
      <span className="text-ink-3">{label}</span>
      <input
        type="range"
        aria-label={label}
        min={min}
        max={max}
        step={step}
        value={now}
        onChange={(e) => {
          window.clearTimeout(timer.current)
          setDraft(Number(e.target.value))
        }}
        onPointerUp={() => keep(0)}
        onKeyUp={() => keep(200)}
        onBlur={() => keep(0)}
        className="min-w-0 accent-ink-2"
      />
      <span className="mono text-right">{text(now)}</span>
    </label>
  )
}
