/** Timecode or a reel for clips without, by rule: every value is seen before it is given, and undo takes it back. */
import type { RuleAsk, RuleRow, RuleSeen } from '@naranja/contract'
import { useMemo, useState } from 'react'
import { api, refusal } from '../../api/index.ts'
import { useAct, useProjectId } from '../../state/index.ts'
import { Button, Choice, type Column, Dialog, number, plural, RowList } from '../../ui/index.ts'

const rules = {
  start: [
    [
      'file-time',
      'File time',
      'When the recording began, as the header says; without a header, when the file was finished, less the length of the clip. If the camera clock was wrong, so is this.',
    ],
    ['sound', 'Heard in its sound', 'Linear timecode (LTC) recorded on a sound track, as read when the clip was taken in.'],
    [
      'recorder',
      'The recorder beside it',
      'From a recorder with timecode that recorded the same sound: exact to the frame. If there is none, from a recorder that ran at the same time by the clocks of the files: exact to a second or two.',
    ],
    [
      'roll-hour',
      'An hour for each roll',
      'The first roll begins at 01:00:00:00, the second at 02:00:00:00; a roll’s clips follow one another in the order of their names.',
    ],
  ],
  reel: [
    ['folder', 'Folder or card', 'The folder or card that the clip is grouped by.'],
    ['name', 'Beginning of the name', 'The letters and the number that the name begins with, as in A001C003.'],
  ],
} as const

const columns = (what: string): Column<RuleRow>[] => [
  { head: 'Clip', width: 'minmax(150px,1fr)', look: 'mono', cell: (r) => r.name },
  { head: 'Roll', width: '96px', look: 'text-ink-2', cell: (r) => r.roll },
  { head: `${what} now`, width: '104px', look: 'mono text-ink-3', cell: (r) => r.before ?? 'none' },
  { head: 'Becomes', width: '96px', look: 'mono', cell: (r) => r.after ?? <span className="text-ink-3">stays so</span> },
  { head: 'Why', width: 'minmax(240px,2fr)', look: 'text-ink-2', cell: (r) => <span title={r.why}>{r.why}</span> },
]

export function RuleDialog({ kind, onClose }: { kind: 'start' | 'reel'; onClose: () => void }) {
  const projectId = useProjectId()
  const list: readonly (readonly [string, string, string])[] = rules[kind]
  const [rule, setRule] = useState<string>(list[0]?.[0] ?? '')
  const ask = { projectId, kind, rule } as { projectId: string } & RuleAsk
  const { currentData: rows, error } = api.usePreviewRuleQuery(ask)
  const [apply, { isLoading }] = api.useApplyRuleMutation()
  const act = useAct()
  const what = kind === 'start' ? 'Timecode' : 'Reel'
  const cols = useMemo(() => columns(what), [what])
  const given = rows?.filter((r) => r.after !== null).length ?? 0
  return (
    <Dialog open onClose={onClose} title={kind === 'start' ? 'Give timecode' : 'Name reels'} wide>
      <div className="flex flex-col gap-2 border-b border-line px-4 py-3">
        <div className="flex">
          <Choice label="Rule" value={rule} onChange={setRule} options={list.map(([code, name]) => [code, name] as const)} />
        </div>
        <p className="m-0 text-ink-2">
          {list.find(([code]) => code === rule)?.[2]} It is kept with the clip and written into its edit copies, never into the original.
        </p>
        {error && <p className="m-0 text-pomegranate">{refusal(error)?.message}</p>}
      </div>
      <div className="flex h-[min(420px,50vh)] min-h-0 flex-col">
        {rows && <RowList label="What becomes of each clip" keys="Clips" rows={rows} id={(r) => r.clipId} columns={cols} />}
      </div>
      <div className="flex items-center justify-end gap-3 border-t border-line px-4 py-2.5">
        <span className="text-ink-2">{rows && `${number(given)} of ${plural(rows.length, 'clip')} would change`}</span>
        <Button
          main
          disabled={given === 0 || isLoading}
          onClick={async () => {
            const as = (seen: RuleSeen) => apply({ ...ask, seen })
            const seen = rows?.map(({ clipId, before, after }) => ({ clipId, before, after })) ?? []
            if (
              await act(
                as(seen),
                (c) => c.sentence,
                projectId,
                (now: RuleSeen) => as(now),
              )
            )
              onClose()
          }}
        >
          {kind === 'start' ? 'Give timecode' : 'Name reels'}
        </Button>
      </div>
    </Dialog>
  )
}
