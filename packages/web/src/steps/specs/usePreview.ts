/** One frame of a clip as a spec would make it; the one before it until it has come. */
import { requestOf, routes, type SpecDraft } from '@naranja/contract'
import { useEffect, useRef, useState } from 'react'

export interface Preview {
  readonly url: string | null
  /** Why there is none. */
  readonly fault: string | null
  /** Another is on its way. */
  readonly waiting: boolean
}

export function usePreview(clipId: string | null, draft: SpecDraft, frame: number, width: number): Preview {
  const [shown, setShown] = useState<Preview>({ url: null, fault: null, waiting: false })
  const last = useRef<string | null>(null)
  const body = JSON.stringify({ spec: draft, frame, width })
  const address = clipId && requestOf(routes.previewCopy, { clipId, spec: draft, frame, width }).url
  useEffect(() => {
    if (!address) return
    const ending = new AbortController()
    setShown((s) => ({ ...s, waiting: true }))
    const timer = setTimeout(async () => {
      try {
        const answer = await fetch(address, { method: routes.previewCopy.method, headers: { 'content-type': 'application/json' }, body, signal: ending.signal })
        if (!answer.ok) {
          const said = (await answer.json().catch(() => null)) as { error?: { message?: string } } | null
          setShown({ url: null, fault: said?.error?.message ?? 'No preview could be made.', waiting: false })
          return
        }
        const url = URL.createObjectURL(await answer.blob())
        if (last.current) URL.revokeObjectURL(last.current)
        last.current = url
        setShown({ url, fault: null, waiting: false })
      } catch (e) {
        if (!ending.signal.aborted) setShown({ url: null, fault: e instanceof Error ? e.message : 'No preview could be made.', waiting: false })
      }
    }, 200)
    return () => {
      clearTimeout(timer)
      ending.abort()
    }
  }, [address, body])
  useEffect(
    () => () => {
      if (last.current) URL.revokeObjectURL(last.current)
    },
    [],
  )
  return shown
}
