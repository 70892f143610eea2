/** A cut list written: at which files it points, in which form, and before it is saved what it cannot carry and which events stay as they were. */
import { addressOf, type ListPreview, type ListQuery, routes } from '@naranja/contract'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { Button, bytes, Choice, Dialog, NoticeMark, type Picked, plural, Select } from '../../ui/index.ts'
import { FolderPicker } from '../../places/index.ts'

const targets: readonly (readonly [ListQuery['target'], string])[] = [
  ['originals', 'originals'],
  ['intermediates', 'intermediates'],
  ['proxies', 'proxies'],
  ['pulls', 'pulls'],
  ['folder', 'files in a folder'],
]

export function SaveListDialog({ cutId, target, onClose }: { cutId: string; target?: ListQuery['target']; onClose: () => void }) {
  const [query, setQuery] = useState<ListQuery>({ target: target ?? 'originals', format: 'edl', lists: 'one', reels: 'reel' })
  const set = (change: Partial<ListQuery>) => setQuery((q) => ({ ...q, ...change }))
  const [picked, setPicked] = useState<Picked[]>([])
  const pointing = query.target === 'folder'
  const choosing = pointing && !query.volumeId
  const { currentData: seen, error } = api.usePreviewListQuery({ cutId, ...query }, { skip: choosing })
  const edl = query.format === 'edl'
  return (
    <Dialog open onClose={onClose} title="Save cut list" wide>
      <div className="grid grid-cols-[120px_minmax(0,1fr)] items-center gap-x-4 gap-y-2.5 border-b border-line px-4 py-3">
        <span className="text-ink-2">Points at</span>
        <span>
          <Choice label="Points at" value={query.target} onChange={(t) => set({ target: t })} options={targets} />
        </span>
        {pointing && !choosing && (
          <>
            <span className="text-ink-2">Folder</span>
            <span className="flex items-center gap-2">
              <span className="mono">{picked[0]?.name}</span>
              <Button onClick={() => set({ volumeId: undefined, ref: undefined })}>Another folder</Button>
            </span>
          </>
        )}
        <span className="text-ink-2">Form</span>
        <span>
          <Choice
            label="Form"
            value={query.format}
            onChange={(format) => set({ format })}
            options={[
              ['edl', 'Edit decision list'],
              ['otio', 'OpenTimelineIO'],
            ]}
          />
        </span>
        {edl && (
          <>
            <span className="text-ink-2">Tracks</span>
            <span>
              <Choice
                label="Tracks"
                value={query.lists}
                onChange={(lists) => set({ lists })}
                options={[
                  ['one', 'all in one list'],
                  ['each', 'a list for each'],
                ]}
              />
            </span>
            <span className="text-ink-2">Reels</span>
            <span className="flex items-center gap-2">
              <Select label="What stands as reel" value={query.reels} onChange={(v) => set({ reels: v as ListQuery['reels'] })}>
                <option value="reel">the reel</option>
                <option value="file">the file's name without its ending</option>
                <option value="name">the file's name</option>
                <option value="roll">the roll</option>
              </Select>
              <Select label="Length of reels" value={query.longest ?? ''} onChange={(v) => set({ longest: v ? Number(v) : undefined })}>
                <option value="">as long as it is</option>
                {[8, 16, 32].map((n) => (
                  <option key={n} value={n}>
                    at most {n} characters
                  </option>
                ))}
              </Select>
            </span>
          </>
        )}
      </div>
      {choosing && (
        <>
          <div className="flex h-[300px] min-h-0 flex-col">
            <FolderPicker mode="folders" picked={picked} onPick={(p) => setPicked(p.slice(-1))} />
          </div>
          <div className="flex justify-end border-t border-line px-4 py-2.5">
            <Button main disabled={picked.length === 0} onClick={() => set({ volumeId: picked[0]?.volumeId, ref: picked[0]?.ref })}>
              Point at its files
            </Button>
          </div>
        </>
      )}
      <div className={`min-h-[180px] flex-1 overflow-auto px-4 py-3 ${choosing ? 'hidden' : ''}`}>
        {error ? (
          <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>
        ) : seen ? (
          <PreviewOfList seen={seen} target={pointing ? 'a file of the folder' : query.target} />
        ) : (
          <p className="m-0 text-ink-3">Reading the cut.</p>
        )}
      </div>
      <div className={`flex-wrap items-center justify-end gap-2 border-t border-line px-4 py-2.5 ${choosing ? 'hidden' : 'flex'}`}>
        {seen?.files.map((f, i) => (
          <a
            key={f.name}
            href={addressOf(routes.cutList, { cutId, ...query, file: i })}
            download
            className={`inline-flex items-center gap-1.5 rounded-md border px-2.5 py-[4.5px] ${i === 0 ? 'border-zest bg-zest font-[650] text-zest-ink' : 'border-line bg-raised hover:border-ink-3'}`}
          >
            <Download size={13} aria-hidden /> Save {f.name}
          </a>
        ))}
      </div>
    </Dialog>
  )
}

function PreviewOfList({ seen, target }: { seen: ListPreview; target: string }) {
  return (
    <div className="flex flex-col gap-3">
      <section>
        <p className="m-0 flex items-center gap-2">
          {seen.left.length ? <NoticeMark severity="warning" /> : null}
          {seen.left.length
            ? `${plural(seen.left.length, 'event')} would not follow, and keep what the imported list says:`
            : `Every event points at ${target}.`}
        </p>
        {seen.left.length > 0 && (
          <ul aria-label="Events that would not follow" className="m-0 mt-1 max-h-[150px] list-none overflow-auto p-0 text-ink-2">
            {seen.left.slice(0, 500).map((l) => (
              <li key={`${l.track} ${l.number} ${l.name}`}>
                <span className="mono text-ink">
                  {l.track} {l.number}
                </span>{' '}
                <span className="mono">{l.name}</span>: {l.why}
              </li>
            ))}
          </ul>
        )}
      </section>
      <section>
        <p className="m-0">{seen.losses.length ? 'The list cannot carry:' : 'Everything of the cut is carried.'}</p>
        {seen.losses.length > 0 && (
          <ul aria-label="Not carried" className="m-0 mt-1 max-h-[150px] list-none overflow-auto p-0 text-ink-2">
            {seen.losses.slice(0, 500).map((l) => (
              <li key={l}>{l}</li>
            ))}
          </ul>
        )}
      </section>
      {seen.files[0] && (
        <section>
          <p className="m-0 text-ink-2">
            Begins ({bytes(seen.files[0].bytes)} in all{seen.files.length > 1 ? `, ${seen.files.length} files` : ''}):
          </p>
          <pre tabIndex={0} className="mono m-0 mt-1 max-h-[150px] overflow-auto rounded bg-ground p-2 text-[12px]">
            {seen.files[0].head}
          </pre>
        </section>
      )}
    </div>
  )
}
