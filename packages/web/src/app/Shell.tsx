/** The frame around every step: top bar, rail, bottom line. */
import { rateText } from '@naranja/core/time'
import {
  BadgeCheck,
  ClipboardList,
  Copy,
  Film,
  FolderOpen,
  HardDrive,
  LayoutDashboard,
  ListOrdered,
  type LucideIcon,
  Moon,
  Route,
  Search,
  Settings as Gear,
  SlidersHorizontal,
  Sun,
} from 'lucide-react'
import { Suspense, useEffect } from 'react'
import { Link, NavLink, Outlet, useLocation, useNavigate } from 'react-router'
import { nextViewing, viewings } from './viewing.ts'
import { api } from '../api/index.ts'
import { Bar, Button, Choice, Kbd, lasting, number, Segments, stationsOfProject } from '../ui/index.ts'
import {
  setTheme,
  showKeys,
  showPalette,
  useAppDispatch,
  useAppSelector,
  useFormatKnown,
  useProject,
  useProjectId,
  useUndo,
  useViewing,
} from '../state/index.ts'
import { Keys } from './Keys.tsx'
import { Messages, Warnings } from '../pieces/index.ts'
import { Palette } from './Palette.tsx'

const steps: readonly (readonly [string, string, LucideIcon])[] = [
  ['originals', 'Originals', FolderOpen],
  ['copies', 'Edit copies', Copy],
  ['cuts', 'Cut lists', ListOrdered],
  ['reconnect', 'Reconnect', Route],
  ['conform', 'Conform', Film],
  ['masters', 'Masters', BadgeCheck],
]

export function Shell() {
  const id = useProjectId()
  const project = useProject()
  const viewing = useViewing()
  const [setViewing] = api.useSetViewingMutation()
  const dispatch = useAppDispatch()
  const theme = useAppSelector((s) => s.face.theme)
  const { data: s } = api.useSummaryQuery(id)
  const { pathname } = useLocation()
  const navigate = useNavigate()
  const undo = useUndo()
  const formatKnown = useFormatKnown()
  const folded = /\/(reconnect|conform)(\/|$)/.test(pathname)
  const count: Record<string, string> = s
    ? {
        originals: s.clips ? number(s.clips) : '',
        copies: !s.copyable ? '' : s.copyable > 999 ? `${Math.floor((100 * s.copied) / s.copyable)} %` : `${s.copied}/${s.copyable}`,
        cuts: String(s.cuts || ''),
        reconnect: !s.events ? '' : s.events > 999 ? `${number(s.events - s.settled)} open` : `${s.settled}/${s.events}`,
        conform: '',
        masters: String(s.masters || ''),
        queue: String(s.working || ''),
      }
    : {}

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing =
        /^(INPUT|TEXTAREA|SELECT)$/.test((e.target as HTMLElement).tagName) && !/^(range|checkbox|radio)$/.test((e.target as HTMLInputElement).type)
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
        e.preventDefault()
        dispatch(showPalette(true))
      } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z' && !typing) {
        e.preventDefault()
        undo(id)
      } else if (e.altKey && /^Digit[0-6]$/.test(e.code) && !(typing && !/^[0-6]$/.test(e.key))) {
        // In a field too, but where Alt and a digit write a character.
        e.preventDefault()
        void navigate(`/p/${id}/${steps[Number(e.code.slice(5)) - 1]?.[0] ?? ''}`)
      } else if (typing || e.ctrlKey || e.metaKey) return
      else if (e.key === '?') dispatch(showKeys(true))
      else if (e.key === 'v') {
        void setViewing({ projectId: id, viewing: nextViewing(viewing, s?.copyKinds ?? ['proxy', 'intermediate']) })
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [dispatch, id, navigate, s?.copyKinds, setViewing, undo, viewing])

  const item = (to: string, name: string, Icon: LucideIcon) => (
    <NavLink
      key={to}
      to={`/p/${id}/${to}`}
      end={to === ''}
      aria-label={name}
      className={({ isActive }) =>
        `flex rounded-md ${folded ? 'flex-col items-center gap-0.5 px-0.5 py-1.5 text-center text-xs' : 'items-center gap-2 px-2 py-[7px]'} ${isActive ? 'bg-raised text-ink shadow-[inset_0_0_0_1px_var(--line)]' : 'text-ink-2 hover:text-ink'}`
      }
    >
      <Icon size={17} strokeWidth={1.6} aria-hidden className="flex-none" />
      <span className={folded ? '' : 'whitespace-nowrap'}>{name}</span>
      {!folded && <span className="ml-auto text-xs whitespace-nowrap tabular-nums text-ink-3">{count[to]}</span>}
    </NavLink>
  )
  return (
    <div className="grid h-full grid-rows-[44px_auto_minmax(0,1fr)_28px]">
      <header className="flex items-center gap-3 border-b border-line bg-panel px-3 whitespace-nowrap">
        <Link to="/" aria-label="All projects" className="flex items-center gap-2">
          <Segments stations={stationsOfProject(s)} size={26} />
          <b className="font-[650]">Naranja</b>
        </Link>
        <Link to={`/p/${id}`} className="max-w-[220px] overflow-hidden text-ellipsis text-ink-2 hover:text-ink">
          {project?.name}
        </Link>
        {project && formatKnown && (
          <span className="hidden text-ink-3 xl:inline">
            {rateText(project.rate)} fps · {project.width}×{project.height}
          </span>
        )}
        <button
          type="button"
          onClick={() => dispatch(showPalette(true))}
          className="mx-auto flex w-full max-w-[340px] items-center gap-2 rounded-md border border-line bg-ground px-2.5 py-[4.5px] text-ink-3"
        >
          <Search size={13} aria-hidden /> Search, or do something
          <span className="ml-auto">
            <Kbd>Ctrl K</Kbd>
          </span>
        </button>
        <span className="text-ink-2">Viewing</span>
        <Choice
          label="Viewing"
          value={viewing}
          onChange={(v) => void setViewing({ projectId: id, viewing: v })}
          options={viewings.map((v) => [v, v] as const)}
        />
        <Button
          quiet
          aria-label={theme === 'dim' ? 'Day theme' : 'Dim theme'}
          title={theme === 'dim' ? 'Day theme' : 'Dim theme'}
          onClick={() => dispatch(setTheme(theme === 'dim' ? 'day' : 'dim'))}
          className="px-1.5"
        >
          {theme === 'dim' ? <Sun size={15} /> : <Moon size={15} />}
        </Button>
      </header>
      <Warnings />
      <div className={`grid min-h-0 ${folded ? 'grid-cols-[74px_minmax(0,1fr)]' : 'grid-cols-[168px_minmax(0,1fr)]'}`}>
        <nav aria-label="Steps" className={`flex flex-col gap-0.5 border-r border-line bg-panel ${folded ? 'px-1 py-2' : 'px-1.5 py-2'}`}>
          {item('', 'Project', LayoutDashboard)}
          <hr className="mx-1 my-1.5 border-0 border-t border-line" />
          {steps.map(([to, name, Icon]) => item(to, name, Icon))}
          <hr className="mx-1 my-2 border-0 border-t border-line" />
          {item('queue', 'Queue', ClipboardList)}
          {item('space', 'Space', HardDrive)}
          {item('specs', 'Specs', SlidersHorizontal)}
          {item('settings', 'Settings', Gear)}
        </nav>
        <main className="flex min-h-0 min-w-0 flex-col">
          <Suspense fallback={null}>
            <Outlet />
          </Suspense>
        </main>
      </div>
      <BottomLine />
      <Messages />
      <Palette />
      <Keys />
    </div>
  )
}

/** What is running, with one bar. */
function BottomLine() {
  const id = useProjectId()
  const { data: q } = api.useQueueQuery({ projectId: id })
  // What is in hand; what only waits stands in the queue.
  const active = q?.batches.filter((b) => b.active) ?? []
  const batch = active.find((b) => b.running > 0) ?? active[0]
  const left = batch?.tasks === 1 ? q?.tasks.find((t) => t.batchId === batch.id)?.left : batch?.left
  const failed = q?.batches[0]?.failed ?? 0
  return (
    <footer className="flex items-center gap-2.5 border-t border-line bg-panel px-3 text-xs whitespace-nowrap text-ink-2">
      {batch ? (
        <Link to={`/p/${id}/queue`} className="flex items-center gap-2.5">
          <span>
            {batch.label}
            {batch.tasks > 1 ? `, ${batch.finished} of ${batch.tasks} ready` : ''}
            {active.length > 1 && `; ${number(active.length - 1)} more in the queue`}
          </span>
          <Bar share={batch.share} label={batch.label} />
          <span className="mono">
            {q?.paused
              ? 'held'
              : [
                  batch.fps ? `${Math.round(batch.fps)} fps` : '',
                  batch.speed ? `${batch.speed.toFixed(1)}× real time` : '',
                  left ? `${lasting(left)} left` : '',
                ]
                  .filter(Boolean)
                  .join(' · ')}
          </span>
        </Link>
      ) : (
        <span>
          Nothing is running.
          {failed > 0 && (
            <Link to={`/p/${id}/queue`} className="ml-2 text-pomegranate underline">
              {failed} failed in the last batch
            </Link>
          )}
        </span>
      )}
      <span className="ml-auto">{q ? (q.workers === 0 ? 'no worker is running' : `${q.workers} ${q.workers === 1 ? 'worker' : 'workers'}`) : ''}</span>
    </footer>
  )
}
