/** What a clip is, and what is shown of it, in words. */
import type { ClipRow } from '@naranja/contract'

/** Whether a clip is, or looks like, a light copy of another. */
export const isLightClip = (c: Pick<ClipRow, 'notices'>): boolean => c.notices.some((n) => ['light-copy', 'marked-light', 'edit-copy'].includes(n.code))

/** What is shown of a clip under the viewing switch, named. */
export function shownWords(viewing: string, kind: string | undefined, gone = false): string {
  if (!kind) return gone ? 'the original is gone' : 'nothing is here'
  if (gone && kind !== 'original') return `${kind}; the original is gone`
  const wanted = viewing.slice(0, viewing === 'proxies' ? -3 : -1)
  const names: Record<string, string> = { original: 'original', intermediate: 'intermediate', proxy: 'proxy' }
  return kind.startsWith(wanted.slice(0, 5)) ? (names[kind] ?? kind) : `${names[kind]} (no ${viewing === 'proxies' ? 'proxy' : wanted} yet)`
}
