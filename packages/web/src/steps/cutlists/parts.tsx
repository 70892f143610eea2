/** What every step that works on a cut shows: which cut it is, or that there is none. */
import type { CutRow } from '@naranja/contract'
import type { ReactNode } from 'react'
import { Link, useNavigate } from 'react-router'
import { useProjectId } from '../../state/index.ts'
import { Empty, Select } from '../../ui/index.ts'

/** The cut's name; a choice where there are several. */
export function CutName({ cut, cuts, step }: { cut: CutRow; cuts: readonly CutRow[]; step: string }) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  if (cuts.length < 2) return <span className="text-ink">{cut.name}</span>
  return (
    <Select
      label="Cut list"
      value={cut.id}
      onChange={(v) => void navigate(`/p/${projectId}/${step}/${v}`)}
      className="min-w-[120px] max-w-[200px]"
      options={cuts.map((c) => [c.id, c.name] as const)}
    />
  )
}

/** What the step is for, and the way to a first cut. */
export function NoCut({ title, guide, children }: { title: string; guide: string; children: ReactNode }) {
  const projectId = useProjectId()
  return (
    <Empty
      title={title}
      guide={guide}
      action={
        <Link to={`/p/${projectId}/cuts`} className="text-ink underline">
          Import a cut list first
        </Link>
      }
    >
      {children}
    </Empty>
  )
}
