/** Reconnect: where every event lands, why, and what is left to decide. */
import type { LinkState } from '@naranja/contract'
import { useEffect, useMemo, useState } from 'react'
import { useNavigate } from 'react-router'
import { useDecideMutation, useLanesQuery } from '../../api/index.ts'
import { useAct, useChosenCut, useProjectId, useViewing } from '../../app/hooks.ts'
import { selectClip, useAppDispatch } from '../../app/store.ts'
import { number } from '../../ui/format.ts'
import { StateMark, stateWords } from '../../ui/marks.tsx'
import { Button, Choice, Head, Kbd } from '../../ui/parts.tsx'
import { EventTable } from '../cutlists/EventTable.tsx'
import { CutName, NoCut } from '../cutlists/parts.tsx'
import { openLink, useCutView } from '../cutlists/useCutView.ts'
import { type At, PairBench, useBenchKeys } from './PairBench.tsx'
import { ReconnectMap } from './ReconnectMap.tsx'
import { RulesDialog } from './RulesDialog.tsx'

const order: LinkState[] = ['certain', 'likely', 'several', 'not-found', 'set-by-hand', 'confirmed', 'none-needed']

export function Reconnect() {
  const projectId = useProjectId()
  const navigate = useNavigate()
  const dispatch = useAppDispatch()
  const viewing = useViewing()
  const { cut: row, cuts, loading } = useChosenCut()
  const view = useCutView(row, viewing)
  const { data: lanes } = useLanesQuery(projectId)
  const [decide] = useDecideMutation()
  const act = useAct()
  const [shape, setShape] = useState<'chart' | 'list'>('chart')
  const [at, setAt] = useState<At>('middle')
  const [chosen, setChosen] = useState(0)
  const [ruling, setRuling] = useState(false)
  const { cut, event, byId, select, nextOpen, setFrame } = view
  const link = event && byId.get(event.id)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another event begins with its best candidate
  useEffect(() => setChosen(0), [event?.id])
  // The first open event is looked at first.
  useEffect(() => {
    if (cut && byId.size > 0 && !event)
      select(cut.events.find((e) => openLink(byId.get(e.id))) ?? cut.events.find((e) => byId.get(e.id)?.state === 'likely') ?? cut.events[0])
  }, [cut, byId, event, select])

  // After a button of the head has been pressed, keys are meant for the bench again.
  const leaveButton = () => {
    if (document.activeElement instanceof HTMLButtonElement) document.activeElement.blur()
  }
  const go = (by: 1 | -1) => {
    leaveButton()
    const e = nextOpen(by)
    if (!e || !cut) return
    select(e)
    setFrame(e.recordIn - cut.start)
  }
  const settle = async (action: 'set' | 'confirm' | 'none' | 'clear', clipId?: string) => {
    if (!event || !row) return
    const next = nextOpen(1)
    const done = await act(decide({ cutId: row.id, eventIds: [event.id], action, ...(clipId ? { clipId } : {}) }), (c) => c.sentence, projectId)
    if (done && action !== 'clear' && next && next.id !== event.id && cut) {
      select(next)
      setFrame(next.recordIn - cut.start)
    }
  }
  const candidate = link?.candidates[chosen]
  const take = () => void settle('set', candidate?.clipId)
  const confirm = () => void settle('confirm', candidate?.clipId)
  const keys: Record<string, () => void> = {
    n: () => go(1),
    N: () => go(-1),
    f: () => setAt('first'),
    m: () => setAt('middle'),
    l: () => setAt('last'),
    Enter: () => {
      if (!link || !candidate) return
      if (link.state === 'likely' && chosen === 0) confirm()
      else if (link.state === 'several' || chosen > 0) take()
    },
  }
  for (let i = 1; i <= 9; i++) keys[String(i)] = () => link?.candidates[i - 1] && setChosen(i - 1)
  useBenchKeys(keys)
  const counts = useMemo(() => order.map((s) => [s, view.links.filter((l) => l.state === s).length] as const).filter(([, n]) => n > 0), [view.links])
  const away = view.links.filter((l) => l.away).length
  const open = view.links.filter((l) => openLink(l)).length
  const likely = view.links.filter((l) => l.state === 'likely')
  return (
    <>
      <Head
        title="Reconnect"
        sub={
          row && (
            <>
              <CutName cut={row} cuts={cuts} step="reconnect" />
              {counts.map(([s, n]) => (
                <button
                  key={s}
                  type="button"
                  title={stateWords[s]}
                  onClick={() => {
                    leaveButton()
                    select(cut?.events.find((e) => byId.get(e.id)?.state === s))
                  }}
                  className="inline-flex items-center gap-1.5 hover:text-ink"
                >
                  <StateMark state={s} /> {number(n)} {s === 'none-needed' ? 'need none' : s === 'set-by-hand' ? 'by hand' : stateWords[s]}
                </button>
              ))}
              {away > 0 && (
                <button
                  type="button"
                  onClick={() => select(cut?.events.find((e) => byId.get(e.id)?.away))}
                  className="inline-flex items-center gap-1.5 hover:text-ink"
                >
                  <StateMark state="certain" away /> {away} away
                </button>
              )}
            </>
          )
        }
      >
        {row && (
          <>
            {likely.length > 1 && (
              <Button
                onClick={() => void act(decide({ cutId: row.id, eventIds: likely.map((l) => l.eventId), action: 'confirm' }), (c) => c.sentence, projectId)}
              >
                Confirm {likely.length} likely
              </Button>
            )}
            <Button onClick={() => setRuling(true)}>Rules</Button>
            <Choice
              label="Chart or list"
              value={shape}
              onChange={setShape}
              options={[
                ['chart', 'Chart'],
                ['list', 'List'],
              ]}
            />
            <Button main={open > 0} disabled={open === 0} onClick={() => go(1)}>
              Next open <span className="rounded border border-current px-1 font-mono text-[11px]">N</span>
            </Button>
          </>
        )}
      </Head>
      {ruling && row && <RulesDialog cutId={row.id} onClose={() => setRuling(false)} />}
      {!loading && !row && (
        <NoCut title="Nothing to reconnect yet">
          Every event of a cut list is tied to the one right original at the right frames, with the reason in a sentence. What is left to decide is shown here,
          picture beside picture.
        </NoCut>
      )}
      {cut && row && (
        <div className="flex min-h-0 flex-1 flex-col">
          <div className="max-h-[57%] flex-none overflow-auto border-b border-line">
            {shape === 'chart' ? (
              <ReconnectMap
                view={{ ...view, cut }}
                lanes={lanes ?? []}
                onClip={(id) => {
                  dispatch(selectClip(id))
                  void navigate(`/p/${projectId}/originals`)
                }}
              />
            ) : (
              <div className="flex h-[360px]">
                <EventTable cut={cut} byId={byId} selected={event?.id ?? null} onSelect={select} originals />
              </div>
            )}
          </div>
          {event && link ? (
            <PairBench
              cut={cut}
              event={event}
              link={link}
              at={at}
              onAt={setAt}
              chosen={Math.min(chosen, Math.max(0, link.candidates.length - 1))}
              onChoose={setChosen}
              onTake={take}
              onConfirm={confirm}
              onNone={() => void settle('none')}
              onClear={() => void settle('clear')}
            />
          ) : (
            <p className="m-auto text-ink-3">
              Choose an event above, or press <Kbd>N</Kbd>.
            </p>
          )}
        </div>
      )}
    </>
  )
}
