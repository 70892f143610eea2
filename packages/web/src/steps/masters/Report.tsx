/** What was checked of a master, how it came out, and all that whoever delivers it should know. */
import type { MasterRow } from '@naranja/contract'
import type { ReactNode } from 'react'
import { CopyMark, NoticeMark, number, plural } from '../../ui/index.ts'

export function Report({ master, report }: { master: MasterRow; report: NonNullable<MasterRow['report']> }) {
  return (
    <aside aria-label="Report" tabIndex={0} className="flex min-h-0 flex-col gap-2 overflow-auto p-3">
      <b data-testid="verdict" className={`text-[15px] font-[650] ${report.verified ? 'text-leaf' : 'text-pomegranate'}`}>
        {report.verified ? 'Checked: it is what the cut says' : 'It is not what the cut says'}
      </b>
      {master.doubts.map((d) => (
        <p key={d} className="m-0 flex items-start gap-2">
          <span className="mt-1 flex-none">
            <NoticeMark severity="warning" />
          </span>
          <span className="min-w-0 break-words">{d}</span>
        </p>
      ))}
      <p className="m-0 text-ink-2">{number(report.frames)} frames counted, every picture event compared at three of them.</p>
      <ul className="m-0 flex list-none flex-col gap-1.5 p-0">
        {report.checks.map((c) => (
          <li key={c.code} className="flex items-start gap-2">
            <span className="mt-1">
              <CopyMark state={c.passed ? 'checked' : 'failed'} />
            </span>
            {c.text}
          </li>
        ))}
      </ul>
      {report.placeholders.length > 0 && (
        <Listed title={`${plural(report.placeholders.length, 'placeholder stands', 'placeholders stand')} in it`}>
          {report.placeholders.map((p) => (
            <li key={p.eventId}>
              <span className="mono">{p.eventId}</span>: {p.reason}
            </li>
          ))}
        </Listed>
      )}
      {report.missing.length > 0 && (
        <Listed
          title={`${plural(
            report.missing.reduce((n, m) => n + m.frames, 0),
            'frame',
          )} that no original has`}
        >
          {report.missing.map((m) => (
            <li key={m.eventId}>
              <span className="mono">{m.eventId}</span>: {plural(m.frames, 'frame')}, {m.held ? 'the picture beside them held' : 'a placeholder'}
            </li>
          ))}
        </Listed>
      )}
      {report.finishing.length > 0 && (
        <Listed title={`${plural(report.finishing.length, 'clip')} finished from ${report.finishing.length === 1 ? 'an intermediate' : 'intermediates'}`}>
          {report.finishing.map((f) => (
            <li key={f.clip}>
              <span className="mono">{f.clip}</span> from <span className="mono">{f.copy}</span>, {plural(f.eventIds.length, 'event')}: {f.decided}
            </li>
          ))}
        </Listed>
      )}
      {report.unconfirmed.length > 0 && (
        <Listed title={`${plural(report.unconfirmed.length, 'match was', 'matches were')} likely and unconfirmed`}>
          {report.unconfirmed.map((u) => (
            <li key={u} className="mono">
              {u}
            </li>
          ))}
        </Listed>
      )}
      {report.notCarried.length > 0 && (
        <Listed title="Not carried from the list">
          {report.notCarried.map((u) => (
            <li key={u}>{u}</li>
          ))}
        </Listed>
      )}
      <p className="mono m-0 mt-auto break-all text-ink-3">
        {master.path}
        <br />
        {report.checksum}
      </p>
    </aside>
  )
}

function Listed({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="rounded-md border border-line p-2">
      <p className="m-0 mb-1 flex items-center gap-2">
        <NoticeMark severity="warning" /> {title}
      </p>
      <ul className="m-0 pl-5 text-xs text-ink-2">{children}</ul>
    </div>
  )
}
