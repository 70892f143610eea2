/** Says that something is being read; at once for those who listen, and to the eye only if it takes more than a moment. */
export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="appears m-auto p-8 text-ink-3">
      Reading {what} …
    </p>
  )
}
