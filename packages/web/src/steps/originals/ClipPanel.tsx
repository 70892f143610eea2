/** One clip: its picture large, what to notice, its facts. */
import { addressOf, type ClipDetail, type LightAsk, routes } from '@naranja/contract'
import { colourMeaning, colourWords } from '@naranja/core/clip'
import { fieldNames } from '@naranja/core/describe'
import { formatFrames, rateText } from '@naranja/core/time'
import { ClipboardCopy, FolderOpen } from 'lucide-react'
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { showAdding, tell, useAct, useAppDispatch, useAppSelector, useProjectId, useViewing } from '../../state/index.ts'
import {
  Button,
  bytes,
  clipStill,
  CopyMark,
  copySaid,
  dataRate,
  duration,
  Fact,
  inputLook,
  isMade,
  moment,
  NoticeMark,
  plural,
  Segments,
} from '../../ui/index.ts'
import { LookForButton } from '../../places/index.ts'
import { Quantity } from '../../charts/index.ts'
import { Scopes, Viewer } from '../../viewer/index.ts'
import { DecodePanel } from './DecodePanel.tsx'
import { Filmstrip } from './Filmstrip.tsx'
import { isLightClip } from './words.ts'
import { LookTrial, useTriedLook } from './LookTrial.tsx'

/** Charts of quantities come when they are wanted. */

/** What is shown of a clip under the viewing switch, named. */
export function shownWords(viewing: string, kind: string | undefined, gone = false): string {
  if (!kind) return gone ? 'the original is gone' : 'nothing is here'
  if (gone && kind !== 'original') return `${kind}; the original is gone`
  const wanted = viewing.slice(0, viewing === 'proxies' ? -3 : -1)
  const names: Record<string, string> = { original: 'original', intermediate: 'intermediate', proxy: 'proxy' }
  return kind.startsWith(wanted.slice(0, 5)) ? (names[kind] ?? kind) : `${names[kind]} (no ${viewing === 'proxies' ? 'proxy' : wanted} yet)`
}

interface Props {
  clipId: string | null
  /** Clips chosen beside it. */
  chosen: ReadonlySet<string>
  large: boolean
  onLarge: () => void
}

export function ClipPanel({ clipId, chosen, large, onLarge }: Props) {
  const projectId = useProjectId()
  const viewing = useViewing()
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const act = useAct()
  const look = useTriedLook(clipId)
  const scopes = useAppSelector((s) => s.face.scopes)
  const [point, setPoint] = useState<{ x: number; y: number } | null>(null)
  const { data: clip } = api.useClipQuery(clipId ?? '', { skip: !clipId })
  const { currentData: playlist } = api.useClipPlaylistQuery(
    { clipId: clipId ?? '', viewing, ...(look ? { look } : {}) },
    { skip: !clipId || !clip?.hasPicture },
  )
  const [remove] = api.useRemoveClipsMutation()
  const [frame, setFrame] = useState(0)
  const [picking, setPicking] = useState(false)
  const [pickGrey] = api.usePickGreyMutation()
  const [setDecode] = api.useSetDecodeMutation()
  const { data: projectDecode } = api.useProjectDecodeQuery(projectId, { skip: !clip?.technical.raw })
  // biome-ignore lint/correctness/useExhaustiveDependencies: another clip begins in its middle
  useEffect(() => setFrame(Math.floor((clip?.frames ?? 0) / 2)), [clip?.id])
  if (!clip || clip.id !== clipId) return <aside className="bg-ground" />
  const t = clip.technical
  const pick = async (x: number, y: number) => {
    setPicking(false)
    const grey = await act(pickGrey({ clipId: clip.id, frame: Math.min(frame, clip.frames - 1), x, y }))
    const now = clip.decode ?? projectDecode?.settings
    if (!grey || !now) return
    const to = { projectId, clipIds: [clip.id], settings: { balance: { kind: 'picked' as const, neutral: grey.neutral } } }
    void act(setDecode({ ...to, before: { balance: now.balance } }), undefined, undefined, (other: typeof now) =>
      setDecode({ ...to, before: { balance: other.balance } }),
    )
  }
  const shown = playlist?.pieces[0]?.shows
  return (
    <aside aria-label={`Clip ${clip.name}`} className="flex min-h-0 flex-col overflow-auto">
      {clip.hasPicture && (
        <Viewer
          key={clip.id}
          label={clip.name}
          playlist={playlist}
          still={(f) => (shown ? clipStill(clip, f, 960, viewing, look) : null)}
          onPoint={picking ? (x, y) => void pick(x, y) : scopes ? (x, y) => setPoint({ x, y }) : undefined}
          tools
          frame={Math.min(frame, clip.frames - 1)}
          onFrame={setFrame}
          shape={(t.width * t.pixelAspect) / t.height}
          shown={isLightClip(clip) && shown === 'original' ? 'light copy' : shownWords(viewing, shown, clip.gone)}
          large={large}
          onLarge={onLarge}
        />
      )}
      <Filmstrip clip={clip} viewing={viewing} look={look} frame={Math.min(frame, clip.frames - 1)} onFrame={setFrame} />
      {clip.hasPicture && <LookTrial clipId={clip.id} />}
      {clip.hasPicture && scopes && (
        <Scopes clipId={clip.id} frame={Math.min(frame, clip.frames - 1)} viewing={viewing} look={look} shownAs={clip.shownAs} point={point} />
      )}
      {!clip.hasPicture && clip.technical.sound && !clip.away && (
        // Recordings have no captions.
        // biome-ignore lint/a11y/useMediaCaption: see above
        <audio
          controls
          preload="none"
          aria-label={`Sound of ${clip.name}`}
          src={addressOf(routes.clipSound, { clipId: clip.id, from: 0, to: clip.frames })}
          className="w-full flex-none p-3"
        />
      )}
      <div className="flex flex-col gap-2.5 border-t border-line p-3">
        {t.raw && <DecodePanel clip={clip} chosen={[...chosen]} picking={picking} onPick={setPicking} />}
        <div className="flex items-center gap-2">
          <Segments stations={clip.stations} size={30} />
          <b className="mono min-w-0 overflow-hidden font-semibold text-ellipsis">{clip.name}</b>
          <Button quiet className="ml-auto px-1.5 py-0.5" onClick={() => void act(remove({ projectId, clipIds: [clip.id] }), (c) => c.sentence, projectId)}>
            Take off the list
          </Button>
        </div>
        {clip.away && !clip.gone && (
          <Note
            severity="warning"
            text={`Its volume ${clip.volume} is away; it was last at ${clip.file}. Connect it and the clip is back by itself.`}
            below
            action={<LookForButton what={clip.name} clipIds={[clip.id]} />}
          />
        )}
        {clip.notices.map((n) => (
          <Note
            key={n.code}
            severity={n.severity}
            below={n.code === 'gone'}
            text={n.code === 'gone' ? `${n.text} It was at ${clip.file}.` : n.text}
            action={
              n.code === 'gone' ? (
                <LookForButton what={clip.name} clipIds={[clip.id]} />
              ) : n.code === 'long-gop' && !clip.copies.some((c) => isMade(c.state)) ? (
                <Button className="py-0.5" onClick={() => void navigate(`/p/${projectId}/copies`)}>
                  Make edit copies
                </Button>
              ) : n.code === 'light-copy' || n.code === 'marked-light' ? (
                <LightRemedy clipId={clip.id} suspected={n.code === 'light-copy'} />
              ) : undefined
            }
          />
        ))}
        <dl className="m-0 grid grid-cols-[84px_minmax(0,1fr)] gap-x-2.5 gap-y-1">
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
        </dl>
        {clip.listened && clip.listened.rates.length > 1 && (
          <section aria-label="Data rate">
            <h3 className="m-0 text-xs font-normal text-ink-3">Data rate along the clip</h3>
            <Quantity values={clip.listened.rates} label="Data rate" text={dataRate} />
          </section>
        )}
      </div>
    </aside>
  )
}

/** Where a description comes from. */
const fromWords = { file: 'from the file', 'side-file': 'from a side file', rule: 'by rule', typed: 'typed in', table: 'from a table file' } as const

/** `below`: the action stands under a text that is long. */
function Note({ severity, text, action, below }: { severity: 'info' | 'warning' | 'error'; text: string; action?: React.ReactNode; below?: boolean }) {
  return (
    <div className="flex items-start gap-2 rounded-md border border-line px-2.5 py-1.5">
      <span className="mt-[3px]">
        <NoticeMark severity={severity} />
      </span>
      <span className="min-w-0 flex-1 break-words">
        {text}
        {below && <span className="mt-1.5 block">{action}</span>}
      </span>
      {!below && action}
    </div>
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
      <select aria-label="Finished from" value={now?.id ?? ''} onChange={(e) => choose(e.target.value)} className={`${inputLook} w-full`}>
        <option value="">its original</option>
        {clip.edits
          .filter((e) => e.kind === 'intermediate')
          .map((e) => (
            <option key={e.id} value={e.id} disabled={e.unfit !== null}>
              {e.specName}
              {e.unfit ? `: ${e.unfit}` : e.away ? ', away' : ''}
            </option>
          ))}
      </select>
      {now && <span className="mt-1 block text-xs text-ink-3">As decided: masters and pulls read this copy, and say so in their reports.</span>}
    </>
  )
}

/** What a person says of a clip that is, or looks like, a light copy. */
function LightRemedy({ clipId, suspected }: { clipId: string; suspected: boolean }) {
  const projectId = useProjectId()
  const [markLight] = api.useMarkLightMutation()
  const act = useAct()
  const say = (mark: boolean) => {
    const ask = (was: LightAsk['was']) => markLight({ projectId, mark, clipIds: [clipId], was })
    void act(
      ask(suspected ? 'suspected' : 'light'),
      (c) => c.sentence,
      projectId,
      (now: Pick<LightAsk, 'was'>) => ask(now.was),
    )
  }
  return (
    <span className="flex flex-wrap gap-1.5">
      {suspected && (
        <Button className="py-0.5" onClick={() => say(true)}>
          Mark as light copy
        </Button>
      )}
      <Button className="py-0.5" onClick={() => say(false)}>
        Count as original
      </Button>
    </span>
  )
}
