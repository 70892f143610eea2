/** Numbers to find texts by: equal texts have equal numbers. FNV-1a over UTF-16 code units, 32 bits. */
export const emptyHash = -2128831035
export const hashStep = (hash: number, code: number): number => Math.imul(hash ^ code, 16777619)

/** Of a text, or of so many code units at its beginning. */
export function hashOf(text: string, length = text.length): number {
  const end = Math.min(length, text.length)
  let hash = emptyHash
  for (let i = 0; i < end; i++) hash = hashStep(hash, text.charCodeAt(i))
  return hash
}
