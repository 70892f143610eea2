/** Problems of one file, gathered so that a file of nothing but bad lines does not fill the memory with them. */
import type { Problem } from './model.ts'

/** Of each kind this many are told one by one; the rest is counted. */
const toldEach = 200

export interface Problems {
  (severity: Problem['severity'], code: string, line: number, message: string): void
  /** In the order in which they were told, and for each kind how many more there are. */
  all(): Problem[]
}

export function problemsOf(file: string): Problems {
  const list: Problem[] = []
  const counts = new Map<string, { n: number; severity: Problem['severity']; last: number }>()
  const report = ((severity, code, line, message) => {
    const c = counts.get(code) ?? { n: 0, severity, last: 0 }
    counts.set(code, c)
    c.n++
    c.last = line
    if (c.n <= toldEach) list.push({ code, severity, file, line, message })
  }) as Problems
  report.all = () => [
    ...list,
    ...[...counts]
      .filter(([, c]) => c.n > toldEach)
      .map(
        ([code, c]): Problem => ({
          ...{ code, severity: c.severity, file, line: c.last },
          message: `${c.n - toldEach} more lines of this kind, the last of them here.`,
        }),
      ),
  ]
  return report
}
