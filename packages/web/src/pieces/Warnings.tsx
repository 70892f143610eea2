/** What stands in everybody's way, on every page, for as long as it does; and what a page does that is not known, or not of today. */
import { type ReactNode, useEffect } from 'react'
import { api, refusal } from '../api/index.ts'
import { NoticeMark, Segments } from '../ui/index.ts'

/** What is wrong may keep the server from telling it, so it is asked. */
const often = { pollingInterval: 10_000 }

export function Warnings() {
  const { data } = api.useWarningsQuery(undefined, often)
  return (
    <div role="alert">
      {data?.warnings.map((w) => (
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

/** Whether somebody is in the middle of something that loading the page anew would lose. */
const atWork = (): boolean => {
  const a = document.activeElement
  return document.querySelector('[role=dialog]') !== null || (a !== null && /^(INPUT|TEXTAREA|SELECT)$/.test(a.tagName))
}

/** Shows the application to a browser that is known; another is told how it becomes so. After an upgrade the page is loaded anew, at a quiet moment. */
export function OnlyKnownBrowsers({ children }: { children: ReactNode }) {
  const { data, error } = api.useWarningsQuery(undefined, often)
  const why = refusal(error)
  useEffect(() => {
    const own = document.querySelector<HTMLScriptElement>('script[type=module][src]')?.getAttribute('src') ?? null
    // Only a built page knows its script by a name that changes.
    if (!data?.page || !own?.startsWith('/assets/') || own === data.page) return
    // Once for each: a page that comes as it was would be loaded for ever.
    const once = 'loaded anew for'
    if (sessionStorage.getItem(once) === data.page) return
    const wanted = data.page
    const timer = setInterval(() => {
      if (atWork()) return
      sessionStorage.setItem(once, wanted)
      window.location.reload()
    }, 1000)
    return () => clearInterval(timer)
  }, [data?.page])
  if (why?.code !== 'not-known') return children
  return (
    <main className="flex h-full flex-col items-center justify-center gap-3 p-8">
      <Segments stations={['reached', 'reached', 'reached', 'reached']} size={56} />
      <h1 className="m-0 text-xl font-[650]">This browser is not known here</h1>
      <p className="m-0 max-w-[52ch] text-center text-ink-2">
        Run <code className="mono rounded-sm bg-raised px-1.5 py-0.5 text-ink">./naranja address</code> where Naranja runs, and open the address that it prints.
        Each address lets one browser in, once.
      </p>
    </main>
  )
}
