/** Numbers to find texts by: equal texts have equal numbers. FNV-1a over UTF-16 code units, 32 bits. */
export const emptyHash = -2128831035
export const hashStep = (hash: number, code: number): number => Math.imul(hash ^ code, 16777619)

/** The number of a text. */
export function hashOf(text: string): number {
  let hash = emptyHash
  for (let i = 0; i < text.length; i++) hash = hashStep(hash, text.charCodeAt(i))
  return hash
}
