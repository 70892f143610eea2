/** All keys, by `?`, and the way to the guide. */
import { useLocation } from 'react-router'
import { guideFor } from '../guide/index.ts'
import { Dialog, Kbd } from '../ui/index.ts'
import { showKeys, useAppDispatch, useAppSelector } from '../state/index.ts'

const groups: [string, [string, string][]][] = [
  [
    'Everywhere',
    [
      ['Ctrl K', 'search, or do something'],
      ['V', 'view originals, intermediates, proxies in turn'],
      ['Alt 1–6', 'to a step; Alt 0 to the project'],
      ['Ctrl Z', 'undo'],
      ['?', 'this list'],
    ],
  ],
  [
    'In a picture',
    [
      ['← →', 'one frame back, one on'],
      ['J K L', 'backwards, stop, play; again is faster'],
      ['I O', 'in and out'],
      ['Space', 'play and stop'],
      ['Home End', 'first and last frame'],
      ['Shift ← → ↑ ↓', 'move the aim over the picture; Enter picks the pixel'],
    ],
  ],
  [
    'In a list',
    [
      ['↑ ↓', 'the row before, the next'],
      ['Page ↑ ↓', 'a page on'],
      ['Shift ↑ ↓', 'choose several'],
      ['Ctrl A', 'choose all that are shown'],
      ['Space', 'tick'],
    ],
  ],
  [
    'In a field of the list of originals',
    [
      ['← →', 'the field before, the next'],
      ['Enter', 'type; again, and to the clip below'],
      ['Ctrl Enter', 'into every chosen clip'],
      ['Ctrl C Ctrl V', 'copy and paste, whole columns too'],
      ['Delete', 'clear'],
      ['Esc', 'leave the field'],
    ],
  ],
  [
    'On the cut strip',
    [
      ['← →', 'the event before, the next'],
      ['↑ ↓', 'in Reconnect: show one roll only, the previous roll, the next one; Esc shows all'],
      ['Alt ↓', 'in Reconnect: to the original of the event'],
      ['+ −', 'closer, further'],
      ['B', 'list only the events in sight; Esc all again'],
    ],
  ],
  [
    'In Reconnect',
    [
      ['N', 'next open event'],
      ['Shift N', 'the one before'],
      ['1–9', 'look at a candidate'],
      ['← →', 'look at it a frame earlier, a frame later'],
      ['Enter', 'take it, and on to the next open one'],
      ['C', 'confirm all that are likely for the same reason'],
      ['F M L', 'first, middle, last frame'],
    ],
  ],
]

export function Keys() {
  const open = useAppSelector((s) => s.face.keys)
  const dispatch = useAppDispatch()
  const { pathname } = useLocation()
  return (
    <Dialog open={open} onClose={() => dispatch(showKeys(false))} title="Keys">
      <p className="m-0 border-b border-line px-4 py-2.5 text-ink-2">
        How this step works, and what can go wrong, is in{' '}
        <a href={guideFor(pathname).address} target="_blank" rel="noreferrer" className="text-ink underline">
          the guide
        </a>
        .
      </p>
      <div className="flex flex-col gap-3 overflow-auto p-4">
        {groups.map(([name, keys]) => (
          <section key={name}>
            <h3 className="m-0 mb-1 text-ink-3">{name}</h3>
            <dl className="m-0 grid grid-cols-[110px_1fr] gap-y-1">
              {keys.map(([k, what]) => (
                <div key={k} className="contents">
                  <dt>
                    <Kbd>{k}</Kbd>
                  </dt>
                  <dd className="m-0">{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  )
}
