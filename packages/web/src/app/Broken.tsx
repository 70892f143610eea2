/** In place of a screen that cannot be shown. */
import { useRouteError } from 'react-router'
import { Button } from '../ui/index.ts'

export function Broken() {
  const error = useRouteError()
  return (
    <main className="flex h-full flex-col items-center justify-center gap-3 p-8">
      <h1 className="m-0 text-xl font-[650]">This screen cannot be shown</h1>
      <p className="m-0 max-w-[60ch] text-center text-ink-2">
        Nothing is lost: what you did is kept where Naranja runs. Load the page again; if that does not help, report these words:{' '}
        <code className="mono rounded-sm bg-raised px-1.5 py-0.5 text-ink">{error instanceof Error ? error.message : String(error)}</code>
      </p>
      <Button main onClick={() => window.location.reload()}>
        Load the page again
      </Button>
    </main>
  )
}
