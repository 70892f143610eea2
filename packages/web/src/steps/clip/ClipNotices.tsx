/** What a person should notice about a clip, each with what can be done about it. */
import type { ClipDetail, LightAsk } from '@naranja/contract'
import type { ReactNode } from 'react'
import { useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { LookForButton } from '../../places/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, isMade, NoticeMark } from '../../ui/index.ts'

export function ClipNotices({ clip }: { clip: ClipDetail }) {
  const projectId = useProjectId()
  const navigate = useNavigate()
  return (
    <>
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
    </>
  )
}

/** `below`: the action stands under a text that is long. */
function Note({ severity, text, action, below }: { severity: 'info' | 'warning' | 'error'; text: string; action?: ReactNode; below?: boolean }) {
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
