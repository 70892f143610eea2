/** What stands beside media in a folder: files that describe a clip, files that other software left, files of no use here. */
import { stem } from './stem.ts'

/** Endings of indexes, caches and locks that software leaves beside media; what they hold is made again when it is needed. */
const leftBehind =
  /\.(idx|index|db|db-shm|db-wal|sqlite|cache|pk|peak|peaks|pkf|reapeaks|tmp|temp|part|partial|crdownload|lock|lck|bak|log|swp|trashed)$|^(thumbs\.db|desktop\.ini|ehthumbs\.db|\.ds_store|\._.*)$/i

/** A file that software left and that is skipped quietly. */
export const isLeftBehind = (name: string): boolean => leftBehind.test(name)

/**
 * Which clip of a folder each other file belongs to, by name: the one whose stem it has, or whose stem it begins with before
 * a sign that is no letter or digit (or a camera's `M01`); and in a folder that holds one clip alone, that one. Files that belong to none are
 * not in the result.
 */
export function sideFiles(clips: readonly string[], others: readonly string[]): Map<string, string> {
  const byStem = new Map<string, string>()
  for (const c of clips) byStem.set(stem(c).toLowerCase(), c)
  const out = new Map<string, string>()
  for (const name of others) {
    const own = stem(name).toLowerCase()
    let clip = byStem.get(own)
    // The longest beginning that is a clip's stem.
    for (let n = own.length - 1; !clip && n >= 3; n--) {
      const rest = own.slice(n)
      if (/^[^\p{L}\p{N}]/u.test(rest) || /^m\d\d$/.test(rest)) clip = byStem.get(own.slice(0, n))
    }
    if (!clip && clips.length === 1) clip = clips[0]
    if (clip) out.set(name, clip)
  }
  return out
}
