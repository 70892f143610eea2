/** Search, or do something: Ctrl+K. */
import { Command } from 'cmdk'
import { useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { api } from '../api/index.ts'
import { guideFor } from '../guide/index.ts'
import { selectClip, setTheme, showAdding, showKeys, showPalette, useAppDispatch, useAppSelector, useProjectId, useUndo } from '../state/index.ts'

export function Palette() {
  const open = useAppSelector((s) => s.face.palette)
  return open ? <Open /> : null
}

function Open() {
  const dispatch = useAppDispatch()
  const theme = useAppSelector((s) => s.face.theme)
  const navigate = useNavigate()
  const { pathname } = useLocation()
  const id = useProjectId()
  const [search, setSearch] = useState('')
  const [setViewing] = api.useSetViewingMutation()
  const undo = useUndo()
  const { data: cuts } = api.useCutsQuery(id)
  const { data: clips } = api.useClipsInfiniteQuery({ projectId: id, sort: 'name', search }, { skip: search.length < 2 })
  const close = () => dispatch(showPalette(false))
  const run = (f: () => void) => () => {
    close()
    f()
  }
  const go = (to: string) => run(() => void navigate(`/p/${id}/${to}`))
  const look = 'flex cursor-pointer gap-2 rounded px-2 py-1.5 data-[selected=true]:bg-raised data-[selected=true]:shadow-[inset_0_0_0_1px_var(--ink-3)]'
  const actions: [string, () => void][] = [
    [
      'Add originals',
      run(() => {
        void navigate(`/p/${id}/originals`)
        dispatch(showAdding({}))
      }),
    ],
    ['Show the project', go('')],
    ['Make edit copies', go('copies')],
    ['Import cut list', go('cuts')],
    ['Reconnect', go('reconnect')],
    ['Make pulls', go('conform')],
    ['Render master', go('masters')],
    ['Try specs on the hardest clip', go('copies/trial')],
    ['Compare edit copies with their originals', go('copies/compare')],
    ['Crop pictures of edit copies', go('copies/framing')],
    ['Pair copies made elsewhere', go('copies/elsewhere')],
    ['Look after folders where files arrive', go('copies/arrivals')],
    ['Show the queue', go('queue')],
    ['Change specs', go('specs')],
    ['Show what takes space', go('space')],
    ['Settings of the project', go('settings')],
    ...(['originals', 'intermediates', 'proxies'] as const).map((v): [string, () => void] => [
      `View ${v}`,
      run(() => void setViewing({ projectId: id, viewing: v })),
    ]),
    ['Undo the last change', run(() => undo(id))],
    [theme === 'dim' ? 'Day theme' : 'Dim theme', run(() => void dispatch(setTheme(theme === 'dim' ? 'day' : 'dim')))],
    ['List of keys', run(() => void dispatch(showKeys(true)))],
    ['Guide', run(() => void window.open(guideFor(pathname).address, '_blank', 'noreferrer'))],
    ['All projects', run(() => void navigate('/'))],
  ]
  return (
    <Command.Dialog
      open
      onOpenChange={(o) => !o && close()}
      label="Search, or do something"
      overlayClassName="fixed inset-0 z-40 bg-black/45"
      contentClassName="fixed top-[72px] left-1/2 z-50 w-[560px] -translate-x-1/2 overflow-hidden rounded-lg border border-line bg-panel shadow-2xl"
    >
      <Command.Input
        autoFocus
        value={search}
        onValueChange={setSearch}
        placeholder="Search clips and cuts, or do something"
        className="w-full border-b border-line bg-transparent px-4 py-3 outline-none placeholder:text-ink-3"
      />
      <Command.List className="max-h-[380px] overflow-auto p-2 [&_[cmdk-group-heading]]:px-2 [&_[cmdk-group-heading]]:py-1 [&_[cmdk-group-heading]]:text-xs [&_[cmdk-group-heading]]:text-ink-3">
        <Command.Empty className="px-2 py-3 text-ink-3">Nothing is called that.</Command.Empty>
        <Command.Group heading="Do">
          {actions.map(([name, f]) => (
            <Command.Item key={name} value={name} onSelect={f} className={look}>
              {name}
            </Command.Item>
          ))}
        </Command.Group>
        {cuts && cuts.length > 0 && (
          <Command.Group heading="Cut lists">
            {cuts.map((c) => (
              <Command.Item key={c.id} value={`cut ${c.name}`} onSelect={go(`cuts/${c.id}`)} className={look}>
                {c.name}
              </Command.Item>
            ))}
          </Command.Group>
        )}
        {clips && (
          <Command.Group heading="Clips">
            {clips.pages[0]?.rows.slice(0, 12).map((c) => (
              <Command.Item
                key={c.id}
                value={`${c.name} ${c.roll} ${c.id}`}
                onSelect={run(() => {
                  dispatch(selectClip(c.id))
                  void navigate(`/p/${id}/originals`)
                })}
                className={look}
              >
                <span className="mono">{c.name}</span>
                <span className="text-ink-3">{c.place}</span>
              </Command.Item>
            ))}
          </Command.Group>
        )}
      </Command.List>
    </Command.Dialog>
  )
}
