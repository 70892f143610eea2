/** Charts of quantities, each loaded when it is first shown: what draws them is large. */
import { type ComponentType, lazy, Suspense } from 'react'

/** A part of a page that comes when it is loaded, and leaves its place empty until then. */
function loaded<P extends object>(load: () => Promise<ComponentType<P>>) {
  const Loaded = lazy(() => load().then((c) => ({ default: c }))) as unknown as ComponentType<P>
  return (props: P) => (
    <Suspense fallback={null}>
      <Loaded {...props} />
    </Suspense>
  )
}

export const AnglesChart = loaded(() => import('./AnglesChart.tsx').then((m) => m.AnglesChart))
export const Quantity = loaded(() => import('./Quantity.tsx').then((m) => m.Quantity))
export const SpaceChart = loaded(() => import('./SpaceChart.tsx').then((m) => m.SpaceChart))
