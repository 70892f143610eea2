/** What became of everything that a folder held: line by line, counted, and told. */
import type { Account, AccountLine } from '@naranja/contract'
import { type FoundClip, lastName, pathText } from '@naranja/media'
import { type Context, plural } from '../platform/index.ts'
import { ArrivalEntity, type ArrivalRecord } from '../records/index.ts'
import { filesIn } from './facts.ts'

/** How a file came into the list. */
export type Came = 'added' | 'unchanged' | 'changed' | 'safer' | 'refound'

export class FolderAccount {
  readonly lines: AccountLine[] = []
  readonly faults: string[] = []
  private readonly counts: Record<Came, number> = { added: 0, unchanged: 0, changed: 0, safer: 0, refound: 0 }

  count(came: Came): void {
    this.counts[came]++
  }
  note(f: FoundClip, became: AccountLine['became'], why = ''): void {
    this.lines.push({ path: pathText(f.path), files: filesIn(f), became, why })
    for (const b of [...f.beside, ...f.sounds.flatMap((s) => s.beside)])
      this.lines.push({ path: pathText(b), files: 1, became: 'beside', why: `beside ${pathText(lastName(f.path))}` })
  }

  /** What is told of the whole. `files`: what could be taken in; `skipped`: what could not, each with its reason; `ownFiles`: how many were made here. */
  told(
    where: string,
    files: readonly FoundClip[],
    skipped: readonly { path: Uint8Array; reason: string }[],
    ownFiles: number,
  ): { message: string; result: object } {
    const { added, unchanged, changed, safer, refound } = this.counts
    const beside = files.reduce((n, f) => n + f.beside.length, 0)
    const reasons = new Map<string, number>()
    for (const s of skipped) reasons.set(s.reason, (reasons.get(s.reason) ?? 0) + 1)
    const parts = [
      `${added} taken in`,
      ...(unchanged ? [`${unchanged} already here`] : []),
      ...(refound ? [`${refound} found again in another place or under another name`] : []),
      ...(safer ? [`${safer} found backed up here, and used from here on`] : []),
      ...(changed ? [`${changed} changed on disk and read anew`] : []),
      ...(this.faults.length ? [`${this.faults.length} cannot be decoded`] : []),
      ...(ownFiles ? [`${plural(ownFiles, 'file')} left out that ${ownFiles === 1 ? 'is an edit copy or was' : 'are edit copies or were'} made here`] : []),
      ...(beside ? [`${beside} ${beside === 1 ? 'file' : 'files'} beside them`] : []),
      ...[...reasons].sort((a, b) => b[1] - a[1]).map(([reason, n]) => `${n} skipped (${reason})`),
    ]
    const nothing = `Nothing to take in was found in ${where}${skipped.length ? ` (${skipped.length} skipped: ${skipped[0]?.reason})` : ': the folder is empty'}. Choose another folder.`
    const account: Account = {
      folder: where,
      files: this.lines.reduce((n, l) => n + l.files, 0) + skipped.length,
      lines: [...this.lines, ...skipped.map((s): AccountLine => ({ path: pathText(s.path), files: 1, became: 'skipped', why: s.reason }))]
        .sort((a, b) => (a.path < b.path ? -1 : 1))
        .slice(0, 20_000),
    }
    return {
      message: files.length === 0 ? nothing : `${where}: ${parts.join(', ')}.`,
      result: { added, unchanged, changed, safer, refound, beside, faults: this.faults, account },
    }
  }
}

/** Writes down what became of what arrived. `uncopied`: why no copies could be set going. */
export async function writeArrivals(ctx: Context, folderId: string, lines: readonly AccountLine[], uncopied: string | null): Promise<void> {
  const rows = lines
    .filter((l) => l.became !== 'beside' && l.became !== 'skipped')
    .map(
      (l): ArrivalRecord => ({
        ...{ folderId, at: new Date(), path: l.path.slice(0, 4000), good: l.became !== 'not-decodable' && (!uncopied || l.became === 'edit-copy') },
        what: (l.became === 'not-decodable'
          ? l.why
          : l.became === 'edit-copy'
            ? `Left out: it is ${l.why}.`
            : uncopied
              ? `Taken in, but not copied: ${uncopied}`
              : l.became === 'changed'
                ? 'Changed, and read anew.'
                : 'Taken in.'
        ).slice(0, 2000),
      }),
    )
  if (rows.length > 0) await ctx.repo(ArrivalEntity).insert(rows)
}
