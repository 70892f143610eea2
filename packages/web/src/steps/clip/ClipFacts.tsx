/** The facts of a clip, in rows. */
import type { ClipDetail } from '@naranja/contract'
import { colourMeaning, colourWords } from '@naranja/core/clip'
import { fieldNames } from '@naranja/core/describe'
import { formatFrames, rateText } from '@naranja/core/time'
import { ClipboardCopy, FolderOpen } from 'lucide-react'
import { api } from '../../api/index.ts'
import { LookForButton } from '../../places/index.ts'
import { showAdding, tell, useAct, useAppDispatch, useProjectId } from '../../state/index.ts'
import { Button, bytes, CopyMark, copySaid, dataRate, duration, Fact, isMade, moment, plural, Select } from '../../ui/index.ts'

export const ClipFacts = ({ clip }: { clip: ClipDetail }) => (
  <dl className="m-0 grid grid-cols-[84px_minmax(0,1fr)] gap-x-2.5 gap-y-1">
    <Form clip={clip} />
    <Described clip={clip} />
    <Sound clip={clip} />
    <Copies clip={clip} />
    <File clip={clip} />
  </dl>
)

/** Where a description comes from. */
const fromWords = { file: 'from the file', 'side-file': 'from a side file', rule: 'by rule', typed: 'typed in', table: 'from a table file' } as const

/** Picture, coding, colour, timecode, length and reel. */
function Form({ clip }: { clip: ClipDetail }) {
  const t = clip.technical
  return (
    <>
      {clip.hasPicture && (
        <Fact name="Picture">
          {t.width}×{t.height}, {rateText(t.rate)} fps{t.captured && ` (shot at ${rateText(t.captured.rate)}, ${fromWords[t.captured.from]})`}, {t.scan},{' '}
          {t.chroma} {t.depth} bit
        </Fact>
      )}
      <Fact name="Codec">
        {t.codec || 'unknown'} in {t.wrapper || '?'}
        {t.dataRate > 0 && `, ${dataRate(t.dataRate)}`}
      </Fact>
      {clip.hasPicture && (
        <Fact name="Colour">
          <details>
            <summary className="cursor-default">{colourWords(t.colour)}</summary>
            <ul className="m-0 mt-1 list-none p-0 text-ink-2">
              {colourMeaning(t).map((c) => (
                <li key={c.tag}>
                  {c.tag} {c.name}: <span className="text-ink-3">{c.meaning}</span>
                </li>
              ))}
            </ul>
          </details>
        </Fact>
      )}
      <Fact name="Start" mono>
        {clip.start === null ? 'no timecode' : formatFrames(clip.start, clip.rate, clip.drop)}
        {clip.startSource === 'rule' && <span className="font-sans text-ink-3"> by rule</span>}
      </Fact>
      <Fact name="Length" mono>
        {duration(clip.frames, clip.rate)} ({clip.frames} frames)
      </Fact>
      <Fact name="Reel">
        {clip.reel ?? 'none'}{' '}
        {clip.reelSource !== 'none' && <span className="text-ink-3">{clip.reelSource === 'folder' ? 'from the folder' : fromWords[clip.reelSource]}</span>}
      </Fact>
    </>
  )
}

/** What people, side files, rules and tables say of it. */
function Described({ clip }: { clip: ClipDetail }) {
  return (
    <>
      {(clip.described.scene || clip.described.take) && (
        <Fact name="Scene">
          {[clip.described.scene?.value, clip.described.take && `take ${clip.described.take.value}`].filter(Boolean).join(', ')}
          {clip.described.circled?.value && ', liked'}{' '}
          <span className="text-ink-3">{fromWords[(clip.described.scene ?? clip.described.take)?.from ?? 'file']}</span>
        </Fact>
      )}
      {(['angle', 'camera', 'plain'] as const).map((f) => {
        const fact = clip.described[f]
        return (
          fact && (
            <Fact key={f} name={fieldNames[f]}>
              {fact.value} <span className="text-ink-3">{fromWords[fact.from]}</span>
            </Fact>
          )
        )
      })}
      {clip.described.notes && (
        <Fact name="Notes">
          {clip.described.notes.value} <span className="text-ink-3">{fromWords[clip.described.notes.from]}</span>
        </Fact>
      )}
    </>
  )
}

/** What is heard, and how loud. */
function Sound({ clip }: { clip: ClipDetail }) {
  const t = clip.technical
  return (
    <>
      <Fact name="Sound">
        {t.sound ? `${plural(t.sound.channels, 'channel')}, ${t.sound.sampleRate / 1000} kHz, ${t.sound.depth} bit` : 'none'}
        {t.hasPicture && t.channelFiles.length > 0 && `, in ${plural(t.channelFiles.length, 'file')} beside the picture`}
        {clip.described.tracks && `: ${clip.described.tracks.value.map((n, i) => n ?? `channel ${i + 1}`).join(', ')}`}
      </Fact>
      {clip.listened && (
        <Fact name="Loudest">
          <span className="mono">{clip.listened.peaks.map((p) => (p <= -60 ? 'silent' : `${p.toFixed(1)} dB`)).join(', ')}</span>
        </Fact>
      )}
    </>
  )
}

/** Backups and edit copies, and what it is finished from. */
function Copies({ clip }: { clip: ClipDetail }) {
  return (
    <>
      <Fact name="Backups">{clip.backups === 0 ? 'none verified' : `verified on ${plural(clip.backups, 'volume')}`}</Fact>
      <Fact name="Edit copies">
        {clip.edits.length === 0
          ? 'none'
          : clip.edits.map((e) => (
              <span key={e.id} className="flex items-center gap-1.5" title={e.faults.join(' ')}>
                <CopyMark state={e.state} away={e.away} /> {e.specName}: {copySaid(e, clip.away)}
                {(e.state === 'gone' || (e.away && isMade(e.state))) && (
                  <LookForButton className="py-0" what={`${e.specName} of ${clip.name}`} copyIds={[e.id]} />
                )}
              </span>
            ))}
      </Fact>
      {clip.edits.some((e) => e.kind === 'intermediate') && (
        <Fact name="Finished from">
          <FinishedFrom clip={clip} />
        </Fact>
      )}
    </>
  )
}

/** What a clip is finished from: its original, or an intermediate that a person names. Those that cannot be used say why. */
function FinishedFrom({ clip }: { clip: ClipDetail }) {
  const projectId = useProjectId()
  const act = useAct()
  const [setFinishing] = api.useSetFinishingMutation()
  const now = clip.edits.find((e) => e.finishing)
  const choose = (id: string) => {
    const ask = (was: string | null) =>
      setFinishing({ projectId, clipIds: [clip.id], was, ...(id ? { from: 'intermediate', copyId: id } : { from: 'original' }) })
    void act(
      ask(now?.id ?? null),
      (c) => c.sentence,
      projectId,
      (stands: { was: string | null }) => ask(stands.was),
    )
  }
  return (
    <>
      <Select label="Finished from" value={now?.id ?? ''} onChange={choose} className="w-full">
        <option value="">its original</option>
        {clip.edits
          .filter((e) => e.kind === 'intermediate')
          .map((e) => (
            <option key={e.id} value={e.id} disabled={e.unfit !== null}>
              {e.specName}
              {e.unfit ? `: ${e.unfit}` : e.away ? ', away' : ''}
            </option>
          ))}
      </Select>
      {now && <span className="mt-1 block text-xs text-ink-3">As decided: masters and pulls read this copy, and say so in their reports.</span>}
    </>
  )
}

/** The file itself, and what lies beside it. */
function File({ clip }: { clip: ClipDetail }) {
  const dispatch = useAppDispatch()
  return (
    <>
      <Fact name="Written">{moment(clip.modified)}</Fact>
      <Fact name="Size">
        {bytes(clip.size)}
        {clip.files > 1 && ` in ${plural(clip.files, 'file')}`}
      </Fact>
      {clip.beside.length > 0 && (
        <Fact name="Side files" mono>
          {clip.beside.slice(0, 6).map((f) => (
            <span key={f} className="block break-all">
              {f.slice(f.lastIndexOf('/') + 1)}
            </span>
          ))}
          {clip.beside.length > 6 && <span className="text-ink-3">and {clip.beside.length - 6} more</span>}
        </Fact>
      )}
      <Fact name="Path" mono>
        {clip.file}
        <Button
          quiet
          aria-label="Copy the path"
          className="ml-1 inline-flex px-1 py-0 align-middle"
          onClick={() =>
            void navigator.clipboard.writeText(clip.file).then(
              () => dispatch(tell({ text: 'The path is in the clipboard.' })),
              () => dispatch(tell({ text: 'The browser does not let the path be copied.', kind: 'refused' })),
            )
          }
        >
          <ClipboardCopy size={12} />
        </Button>
        {!clip.away && (
          <Button
            quiet
            aria-label="Show in its folder"
            title="Show in the browser of volumes"
            className="inline-flex px-1 py-0 align-middle"
            onClick={() =>
              dispatch(showAdding({ start: { volumeId: clip.volumeId, ref: clip.folder, name: clip.file.slice(clip.file.lastIndexOf('/') + 1) } }))
            }
          >
            <FolderOpen size={12} />
          </Button>
        )}
      </Fact>
    </>
  )
}
