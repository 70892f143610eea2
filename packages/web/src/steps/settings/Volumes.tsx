/** The volumes that a project knows: whether they are here, how full, and by what they are known when they come back. */
import { api } from '../../api/index.ts'
import { CardReader } from '../../places/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, bytes, plural } from '../../ui/index.ts'

/** By what a volume is known when it comes back. */
const knownBy = {
  'file-system': 'known by its file system, wherever it is mounted',
  reader: 'a card, known by its own id',
  marker: 'known by a marker file on it',
  path: 'known by this path only',
} as const

export function Volumes() {
  const { data: volumes } = api.useVolumesQuery({ projectId: useProjectId() })
  const [mark] = api.useMarkVolumeMutation()
  const act = useAct()
  return (
    <section>
      <h2 className="m-0 mb-2 text-[15px] font-[650]">Volumes</h2>
      <ul className="m-0 list-none p-0">
        {volumes?.map((v) => (
          <li key={v.id} className="border-b border-line/70 py-1.5">
            <div className="flex justify-between gap-3">
              <span>
                {v.label} {!v.here && <span className="text-lemon">away</span>}
              </span>
              <span className="text-ink-2">
                {plural(v.clips, 'clip')}
                {v.free !== null && `, ${bytes(v.free)} free`}
              </span>
            </div>
            <div className="mono wrap-anywhere text-ink-3">{v.here ? v.path : v.cause}</div>
            <div className="flex items-center gap-2 text-xs text-ink-3">
              {knownBy[v.knownBy]}
              {v.here && v.knownBy === 'path' && (
                <Button
                  quiet
                  title="Writes a small file to it, so that it is recognised wherever it is mounted"
                  onClick={() => void act(mark(v.id), `${v.label} now carries a marker and is recognised wherever it is mounted.`)}
                >
                  Mark it
                </Button>
              )}
            </div>
          </li>
        ))}
      </ul>
      <CardReader />
    </section>
  )
}
