/** How the list is seen: which columns, in which order, grouped by what; kept under a name. */
import type { ListView, ListViews } from '@naranja/contract'
import { Columns3, X } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'
import { Button, Choice, inputLook, laterPart } from '../../ui/index.ts'
import { columns, nameOfColumn, ownViews } from './columns.tsx'

const ColumnOrder = laterPart(() => import('./ColumnOrder.tsx').then((m) => m.ColumnOrder))

const like = (a: ListView, b: ListView): boolean =>
  a.columns.join() === b.columns.join() && a.group === b.group && a.sort === b.sort && a.descending === b.descending

export function ViewMenu({ views, onViews }: { views: ListViews; onViews: (v: ListViews) => void }) {
  const { now, kept } = views
  const [name, setName] = useState('')
  const see = (view: ListView) => onViews({ ...views, now: { ...view, where: view.where.length ? view.where : now.where } })
  const set = (part: Partial<ListView>) => onViews({ ...views, now: { ...now, ...part } })
  const others = ['picture', ...columns.map((c) => c.code)].filter((c) => !now.columns.includes(c))
  const current = [...ownViews, ...kept].find((v) => like(v.view, now))?.name
  return (
    <Popover.Root>
      <Popover.Trigger asChild>
        <Button className="py-[3px]">
          <Columns3 size={13} aria-hidden /> Columns{current && current !== ownViews[0]?.name ? `: ${current}` : ''}
        </Button>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          aria-label="View of the list"
          className="z-30 w-[470px] rounded-lg border border-line bg-panel p-3 shadow-2xl"
        >
          <div className="flex flex-wrap gap-1.5" role="group" aria-label="Views">
            {ownViews.map((v) => (
              <Button key={v.name} aria-pressed={current === v.name} onClick={() => see({ ...v.view, group: now.group })}>
                {v.name}
              </Button>
            ))}
            {kept.map((v) => (
              <span key={v.name} className="inline-flex">
                <Button aria-pressed={current === v.name} onClick={() => see(v.view)} className="rounded-r-none">
                  {v.name}
                </Button>
                <Button
                  quiet
                  aria-label={`Forget the view ${v.name}`}
                  className="rounded-l-none border-line px-1"
                  onClick={() => onViews({ ...views, kept: kept.filter((k) => k !== v) })}
                >
                  <X size={11} />
                </Button>
              </span>
            ))}
          </div>
          <div className="mt-3 flex items-center gap-2">
            <span className="text-ink-2">Grouped by</span>
            <Choice
              label="Grouped by"
              value={now.group}
              onChange={(group) => set({ group, sort: null, descending: false })}
              options={[
                ['roll', 'roll'],
                ['day', 'day'],
                ['camera', 'camera'],
                ['none', 'nothing'],
              ]}
            />
          </div>
          <div className="mt-3 grid grid-cols-2 gap-3">
            <div>
              <h3 className="m-0 mb-1 text-xs font-normal text-ink-3">Shown, from left to right</h3>
              <ColumnOrder shown={now.columns} onOrder={(columns) => set({ columns })} />
            </div>
            <div>
              <h3 className="m-0 mb-1 text-xs font-normal text-ink-3">Not shown</h3>
              <ul className="m-0 max-h-[270px] list-none overflow-auto p-0">
                {others.map((code) => (
                  <li key={code}>
                    <button
                      type="button"
                      onClick={() => set({ columns: code === 'picture' ? ['picture', ...now.columns] : [...now.columns, code] })}
                      className="w-full rounded px-2 py-[3px] text-left text-ink-2 hover:bg-raised hover:text-ink"
                    >
                      {nameOfColumn(code)}
                    </button>
                  </li>
                ))}
              </ul>
            </div>
          </div>
          <form
            className="mt-3 flex gap-2 border-t border-line pt-3"
            onSubmit={(e) => {
              e.preventDefault()
              const n = name.trim()
              if (!n) return
              onViews({ ...views, kept: [...kept.filter((k) => k.name !== n), { name: n, view: now }] })
              setName('')
            }}
          >
            <input
              aria-label="Name of this view"
              placeholder="Keep this view as …"
              value={name}
              onChange={(e) => setName(e.target.value)}
              className={`${inputLook} flex-1`}
            />
            <Button type="submit" disabled={!name.trim()}>
              Keep view
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}
