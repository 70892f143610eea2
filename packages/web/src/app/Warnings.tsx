/** What stands in everybody's way, on every page, for as long as it does. */
import { useWarningsQuery } from '../api/index.ts'
import { NoticeMark } from '../ui/marks.tsx'

export function Warnings() {
  // What is wrong may keep the server from telling it.
  const { data } = useWarningsQuery(undefined, { pollingInterval: 10_000 })
  return (
    <div role="alert">
      {data?.map((w) => (
        <p key={w.code} className="m-0 flex items-start gap-3 border-b border-line bg-panel px-4 py-2">
          <span className="mt-1">
            <NoticeMark severity={w.code === 'full' ? 'error' : 'warning'} />
          </span>
          {w.text}
        </p>
      ))}
    </div>
  )
}
