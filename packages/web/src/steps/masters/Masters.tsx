/** Masters: before, what would stop one; after, the proof. */
import { addressOf, type MasterRow, routes } from '@naranja/contract'
import { Download } from 'lucide-react'
import { useNavigate, useParams } from 'react-router'
import { api } from '../../api/index.ts'
import { useChosenCut, useProject, useProjectId } from '../../state/index.ts'
import { Choice, Head, Loading, rateName, Select } from '../../ui/index.ts'
import { NoCut } from '../cutlists/index.ts'
import { Before } from './Before.tsx'
import { Proof } from './Proof.tsx'

const stateWords: Record<MasterRow['state'], string> = {
  waiting: 'waiting',
  'being-made': 'being rendered',
  verified: 'checked',
  unchecked: 'rendered, not checked',
  'failed-check': 'failed its check',
  failed: 'failed',
  cancelled: 'cancelled',
}

export function Masters() {
  const projectId = useProjectId()
  const project = useProject()
  const navigate = useNavigate()
  const { cut: row, loading } = useChosenCut()
  const { data: masters } = api.useMastersQuery(projectId)
  const { masterId } = useParams()
  const master = masters?.find((m) => m.id === masterId)
  const shown = master ? 'proof' : 'before'
  const latest = masters?.[0]
  return (
    <>
      <Head
        title="Masters"
        sub={
          <>
            {row && <span>{row.name}</span>}
            {project && (
              <span>
                ProRes 422 HQ, {project.width}×{project.height}, {rateName(project.rate)}
              </span>
            )}
            {masters && masters.length > 0 && (
              <Select
                label="Master"
                value={master?.id ?? ''}
                onChange={(v) => void navigate(v ? `/p/${projectId}/masters/${v}` : `/p/${projectId}/masters`)}
                className="max-w-[300px]"
              >
                <option value="">before the next master</option>
                {masters.map((m) => (
                  <option key={m.id} value={m.id}>
                    {m.path.slice(m.path.lastIndexOf('/') + 1)}: {stateWords[m.state]}
                  </option>
                ))}
              </Select>
            )}
          </>
        }
      >
        {latest && (
          <Choice
            label="Before or proof"
            value={shown}
            onChange={(v) => void navigate(v === 'proof' ? `/p/${projectId}/masters/${(master ?? latest).id}` : `/p/${projectId}/masters`)}
            options={[
              ['before', 'Before'],
              ['proof', 'Proof'],
            ]}
          />
        )}
        {master?.report && (
          <a
            href={addressOf(routes.masterReport, master.id)}
            download
            className="inline-flex items-center gap-1.5 rounded-md border border-line bg-raised px-2.5 py-[4.5px] hover:border-ink-3"
          >
            <Download size={13} aria-hidden /> Save report
          </a>
        )}
      </Head>
      {loading && <Loading what="the cut" />}
      {!loading && !row && (
        <NoCut title="No master yet" guide="/guide/masters">
          A master is rendered from originals or pulls only, never from a proxy, and checked frame by frame against its sources when it is finished.
        </NoCut>
      )}
      {row && (master ? <Proof master={master} cutId={master.cutId} /> : <Before />)}
    </>
  )
}
