/** Naranja's own marks: the segments, and the silhouette of every state. Never colour alone. */
import type { CopyState, LinkState, Stations, Summary } from '@naranja/contract'

const stationNames = ['original', 'edit copy', 'reconnected', 'checked']
const words: Record<Stations[number], string> = { reached: 'yes', open: 'not yet', 'not-needed': 'not needed', away: 'away', wrong: 'something is wrong' }

/** Reads the segments out. */
export const stationsText = (s: Stations): string => s.map((x, i) => `${stationNames[i]}: ${words[x]}`).join(', ')

/** How far a whole project is. */
export const stationsOfProject = (s: Pick<Summary, 'clips' | 'copyable' | 'copied' | 'events' | 'settled' | 'masters'> | undefined): Stations =>
  s?.clips
    ? [
        'reached',
        s.copyable && s.copied >= s.copyable ? 'reached' : 'open',
        s.events && s.settled >= s.events ? 'reached' : 'open',
        s.masters ? 'reached' : 'open',
      ]
    : ['open', 'open', 'open', 'open']

const [cx, cy, R, r] = [12, 17, 11, 2.6]
const point = (radius: number, t: number) => `${(cx + radius * Math.cos(t)).toFixed(1)} ${(cy + radius * Math.sin(t)).toFixed(1)}`

/** Four segments of half an orange: filled when the station is reached, hollow when not, absent when not needed. */
export function Segments({ stations, size = 22 }: { stations: Stations; size?: number }) {
  return (
    <svg width={size} height={size * 0.75} viewBox="0 4 24 15" role="img" aria-label={stationsText(stations)} className="flex-none">
      <title>{stationsText(stations)}</title>
      {stations.map((s, i) => {
        if (s === 'not-needed') return null
        const a = Math.PI * (1 + i / 4) + 0.07
        const b = Math.PI * (1 + (i + 1) / 4) - 0.07
        const d = `M${point(r, a)}L${point(R, a)}A${R} ${R} 0 0 1 ${point(R, b)}L${point(r, b)}Z`
        const m = (a + b) / 2
        const colour = s === 'wrong' ? 'var(--pomegranate)' : s === 'reached' ? 'var(--leaf)' : 'var(--ink-3)'
        return (
          <g key={stationNames[i]}>
            <path d={d} fill={s === 'reached' || s === 'wrong' ? colour : 'none'} stroke={colour} strokeWidth="1.2" strokeLinejoin="round" />
            {s === 'away' && <path d={`M${point(R + 1, m - 0.3)}L${point(r, m + 0.3)}`} stroke="var(--ink-2)" strokeWidth="1.6" />}
            {s === 'wrong' && <path d={`M${point(R - 3, m - 0.12)}L${point(R + 0.5, m)}L${point(R - 3, m + 0.12)}Z`} fill="var(--page)" />}
          </g>
        )
      })}
    </svg>
  )
}

export const stateWords: Record<LinkState, string> = {
  certain: 'certain',
  likely: 'likely',
  several: 'several',
  'not-found': 'not found',
  'set-by-hand': 'set by hand',
  confirmed: 'confirmed',
  'none-needed': 'no original needed',
}
export const stateColour: Record<LinkState, string> = {
  certain: 'leaf',
  likely: 'leaf',
  several: 'lemon',
  'not-found': 'pomegranate',
  'set-by-hand': 'leaf',
  confirmed: 'leaf',
  'none-needed': 'ink-3',
}

/** The silhouette of an event's state; struck through where its original is away. */
export function StateMark({ state, away = false, size = 14 }: { state: LinkState; away?: boolean; size?: number }) {
  const c = `var(--${stateColour[state]})`
  const label = `${stateWords[state]}${away ? ', original away' : ''}`
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" fill="none" stroke={c} strokeWidth="1.7" role="img" aria-label={label} className="flex-none">
      <title>{label}</title>
      {state === 'certain' && (
        <>
          <circle cx="8" cy="8" r="6.4" fill={c} stroke="none" />
          <path d="M4.8 8.2l2.2 2.2 4.2-4.6" stroke="var(--page)" />
        </>
      )}
      {state === 'likely' && <path d="M2 6q3-3 6 0t6 0M2 11q3-3 6 0t6 0" />}
      {state === 'several' && <path d="M8 15V9M8 9L3 2M8 9l5-7" />}
      {state === 'not-found' && <rect x="2" y="2" width="12" height="12" strokeDasharray="3 2.2" />}
      {state === 'set-by-hand' && (
        <>
          <rect x="2.5" y="4.5" width="11" height="9" />
          <path d="M8 1v6" />
          <circle cx="8" cy="8.4" r="1.9" fill={c} stroke="none" />
        </>
      )}
      {state === 'confirmed' && (
        <>
          <rect x="2" y="2" width="12" height="12" />
          <path d="M4.6 8.2l2.4 2.4 4.4-5" />
        </>
      )}
      {state === 'none-needed' && <path d="M4 8h8" strokeWidth="2" />}
      {away && <path d="M1 15L15 1" stroke="var(--ink-2)" />}
    </svg>
  )
}

export const copyWords: Record<CopyState, string> = {
  none: 'none',
  waiting: 'waiting',
  'being-made': 'being made',
  checked: 'checked',
  'failed-check': 'failed its check',
  failed: 'failed',
  cancelled: 'cancelled',
  'out-of-date': 'out of date',
  rewrapped: 'rewrapped',
  unchecked: 'not checked',
  gone: 'gone',
}

interface CopyStanding {
  readonly state: CopyState
  readonly away: boolean
}
/** Whether it has been made, and can stand for its original. */
export const isMade = (state: CopyState): boolean => state === 'checked' || state === 'rewrapped' || state === 'out-of-date'
/** Whether it has been made and can be reached. */
export const isThere = (c: CopyStanding): boolean => isMade(c.state) && !c.away
/** How it stands, in words; `alone`: its original is away or gone. */
export const copySaid = (c: CopyStanding | undefined, alone = false): string => {
  if (c?.away && (isMade(c.state) || c.state === 'unchecked')) return 'away'
  return alone && c && isThere(c) ? 'copy only' : copyWords[c?.state ?? 'none']
}

/** The silhouette of an edit copy's state; struck through where its volume is away. */
export function CopyMark({ state, away = false }: { state: CopyState; away?: boolean }) {
  const c = {
    checked: 'leaf',
    'being-made': 'tide',
    waiting: 'ink-3',
    none: 'ink-3',
    cancelled: 'ink-3',
    'out-of-date': 'lemon',
    rewrapped: 'leaf',
    unchecked: 'lemon',
    gone: 'pomegranate',
    failed: 'pomegranate',
    'failed-check': 'pomegranate',
  }[state]
  return (
    <svg width="12" height="12" viewBox="0 0 16 16" fill="none" stroke={`var(--${c})`} strokeWidth="1.8" aria-hidden="true" className="flex-none">
      {(state === 'checked' || state === 'rewrapped') && <path d="M2 8.5l4 4L14 4" />}
      {state === 'being-made' && <path d="M2 8h8M2 5v6h12V5z" />}
      {state === 'waiting' && <path d="M4 2h8L4 14h8z" />}
      {state === 'none' && <path d="M5 8h6" />}
      {state === 'out-of-date' && (
        <>
          <circle cx="8" cy="8" r="6" />
          <path d="M8 4.5V8.4l2.6 1.6" />
        </>
      )}
      {state === 'gone' && <path d="M5.5 6a2.6 2.6 0 1 1 3.6 2.4c-.8.3-1.1.7-1.1 1.6M8 12.6v.4" />}
      {state === 'unchecked' && <path d="M3 5.5h10M3 10.5h10" />}
      {state === 'cancelled' && <circle cx="8" cy="8" r="5.5" strokeDasharray="2 2" />}
      {(state === 'failed' || state === 'failed-check') && <path d="M3 3l10 10M13 3L3 13" />}
      {away && <path d="M2 1l12 14" stroke="var(--ink-2)" />}
    </svg>
  )
}

/** A triangle for what a person should notice. */
export function NoticeMark({ severity }: { severity: 'info' | 'warning' | 'error' }) {
  const c = { info: 'ink-3', warning: 'lemon', error: 'pomegranate' }[severity]
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" fill="none" stroke={`var(--${c})`} strokeWidth="1.6" role="img" aria-label={severity} className="flex-none">
      {severity === 'error' ? (
        <path d="M3 3h10v10H3zM8 5v4M8 10.4v1.2" />
      ) : severity === 'info' ? (
        <path d="M8 14A6 6 0 1 0 8 2a6 6 0 0 0 0 12zM8 7v4M8 4.4v1.2" />
      ) : (
        <path d="M8 2l6.5 12h-13z" />
      )}
    </svg>
  )
}
