/** Parts of the application whose code comes when they are first shown, or when there is nothing else to do. */
import { type ComponentType, lazy, Suspense } from 'react'

const loads: (() => Promise<unknown>)[] = []

/** A screen that is loaded when it is first shown: its folder's door gives it so. Whoever shows it says what stands in its place until then (Suspense). */
export function later<P extends object>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  loads.push(load)
  return lazy(() => load().then((c) => ({ default: c }))) as unknown as ComponentType<P>
}

/** The same for a part of a screen, whose place stays empty until it is there. */
export function laterPart<P extends object>(load: () => Promise<ComponentType<P>>): ComponentType<P> {
  const Part = later(load)
  return (props: P) => (
    <Suspense fallback={null}>
      <Part {...props} />
    </Suspense>
  )
}

/**
 * Loads everything that has not been shown yet, once the page has time for it: the next screen opens at once then, and a page that stays open
 * for days does not ask for parts that an upgrade has taken away. What cannot be loaded now is tried again when it is shown.
 */
export function loadRest(): void {
  // Not every browser tells when it has time.
  const whenIdle = window.requestIdleCallback ?? ((then: () => void) => window.setTimeout(then, 1000))
  whenIdle(() => {
    for (const load of loads) load().catch(() => undefined)
  })
}
