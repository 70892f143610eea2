/** One clip: its picture large, what to notice, its facts. */
import { addressOf, type ClipDetail, routes } from '@naranja/contract'
import { useEffect, useState } from 'react'
import { api } from '../../api/index.ts'
import { useAct, useAppSelector, useProjectId, useViewing } from '../../state/index.ts'
import { Button, clipStill, dataRate, Segments } from '../../ui/index.ts'
import { Quantity } from '../../charts/index.ts'
import { Scopes, Viewer } from '../../viewer/index.ts'
import { DecodePanel } from './DecodePanel.tsx'
import { Filmstrip } from './Filmstrip.tsx'
import { ClipFacts } from './ClipFacts.tsx'
import { ClipNotices } from './ClipNotices.tsx'
import { isLightClip, shownWords } from './words.ts'
import { LookTrial, useTriedLook } from './LookTrial.tsx'

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
  const { picking, setPicking, pick } = usePickGrey(clip, frame)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another clip begins in its middle
  useEffect(() => setFrame(Math.floor((clip?.frames ?? 0) / 2)), [clip?.id])
  if (!clip || clip.id !== clipId) return <aside className="bg-ground" />
  const t = clip.technical
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
        <ClipNotices clip={clip} />
        <ClipFacts clip={clip} />
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

/** Balances a raw clip by a point of its picture that is to be grey. */
function usePickGrey(clip: ClipDetail | undefined, frame: number) {
  const projectId = useProjectId()
  const act = useAct()
  const [picking, setPicking] = useState(false)
  const [pickGrey] = api.usePickGreyMutation()
  const [setDecode] = api.useSetDecodeMutation()
  const { data: projectDecode } = api.useProjectDecodeQuery(projectId, { skip: !clip?.technical.raw })
  const pick = async (x: number, y: number) => {
    setPicking(false)
    if (!clip) return
    const grey = await act(pickGrey({ clipId: clip.id, frame: Math.min(frame, clip.frames - 1), x, y }))
    const now = clip.decode ?? projectDecode?.settings
    if (!grey || !now) return
    const to = { projectId, clipIds: [clip.id], settings: { balance: { kind: 'picked' as const, neutral: grey.neutral } } }
    void act(setDecode({ ...to, before: { balance: now.balance } }), undefined, undefined, (other: typeof now) =>
      setDecode({ ...to, before: { balance: other.balance } }),
    )
  }
  return { picking, setPicking, pick }
}
