/** The project's settings, its history, and the volumes it knows. */
import type { FinishingRule } from '@naranja/contract'
import { rateFraction, rateText } from '@naranja/core/time'
import { useEffect, useRef } from 'react'
import { useForm } from 'react-hook-form'
import { api } from '../../api/index.ts'
import { useAct, useEditProject, useProject, useProjectId, useUndo } from '../../state/index.ts'
import { Button, bytes, Field, Head, inputLook, plural } from '../../ui/index.ts'
import { CardReader } from '../../places/index.ts'

/** By what a volume is known when it comes back. */
const knownBy = {
  'file-system': 'known by its file system, wherever it is mounted',
  reader: 'a card, known by its own id',
  marker: 'known by a marker file on it',
  path: 'known by this path only',
} as const

export function Settings() {
  const id = useProjectId()
  const project = useProject()
  const { data: volumes } = api.useVolumesQuery({ projectId: useProjectId() })
  const { data: changes } = api.useChangesQuery(id)
  const { data: summary } = api.useSummaryQuery(id)
  const [edit] = useEditProject()
  const { data: rule } = api.useFinishingRuleQuery(id)
  const [setRule] = api.useSetFinishingRuleMutation()
  const undo = useUndo()
  const [mark] = api.useMarkVolumeMutation()
  const act = useAct()
  const form = useForm({ defaultValues: { name: '', rate: '', width: 1920, height: 1080 } })
  const {
    reset,
    formState: { dirtyFields },
  } = form
  /** The version that stood here when a person began to change it. */
  const seen = useRef(0)
  const touched = Object.keys(dirtyFields).length > 0
  useEffect(() => {
    if (!project) return
    if (!touched) seen.current = project.version
    reset(
      {
        name: project.name,
        rate: project.rate.den === 1 ? String(project.rate.num) : rateFraction(project.rate),
        width: project.width,
        height: project.height,
      },
      // What is being typed stays, whoever changes what meanwhile.
      { keepDirtyValues: true },
    )
  }, [project, reset, touched])
  const save = (v: { name: string; rate: string; width: number; height: number }) => {
    // Only what was touched is changed, and settled by it.
    const mine = {
      ...(dirtyFields.name ? { name: v.name } : {}),
      ...(dirtyFields.rate ? { rate: v.rate } : {}),
      ...(dirtyFields.width || dirtyFields.height ? { width: Number(v.width), height: Number(v.height) } : {}),
    }
    return edit(mine, 'The settings are saved.', { seen: seen.current })
  }
  const m = summary?.majority
  const hasCut = (summary?.cuts ?? 0) > 0
  return (
    <>
      <Head title="Settings" />
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)_minmax(0,1fr)] gap-6 overflow-auto p-4">
        <form
          className="flex flex-col gap-3 self-start"
          onSubmit={form.handleSubmit(async (v) => {
            if (await save(v)) form.reset(v)
          })}
        >
          <h2 className="m-0 text-[15px] font-[650]">Project</h2>
          <Field label="Name">{(f) => <input id={f} className={inputLook} {...form.register('name', { required: true })} />}</Field>
          <Field
            label="Frame rate"
            hint={
              hasCut
                ? 'It stays: the frames of the cut lists count at it.'
                : m && `${m.rateCount} of ${m.count} clips run at ${rateText(m.rate)} fps. Set it before the first cut list; then it stays.`
            }
          >
            {(f) => <input id={f} className={`${inputLook} ${hasCut ? 'opacity-60' : ''}`} readOnly={hasCut} {...form.register('rate')} />}
          </Field>
          <div className="flex gap-2">
            <Field label="Width">{(f) => <input id={f} type="number" className={`${inputLook} w-full`} {...form.register('width')} />}</Field>
            <Field label="Height" hint="of the finished picture">
              {(f) => <input id={f} type="number" className={`${inputLook} w-full`} {...form.register('height')} />}
            </Field>
          </div>
          <Button main type="submit" className="self-start">
            Save settings
          </Button>
          <label className="flex items-start gap-2 border-t border-line pt-3">
            <input
              type="checkbox"
              className="mt-0.5 accent-zest"
              checked={rule?.missing ?? false}
              disabled={!rule}
              onChange={(e) => {
                const mine = { projectId: id, missing: e.target.checked }
                void act(
                  setRule({ ...mine, version: rule?.version ?? 0 }),
                  (c) => c.sentence,
                  id,
                  (now: FinishingRule) => setRule({ ...mine, version: now.version }),
                )
              }}
            />
            <span>
              Finish from checked intermediates where an original is away or cannot be decoded
              <span className="block text-xs text-ink-3">Never from a proxy. Plans and reports name every event that is.</span>
            </span>
          </label>
        </form>
        <section>
          <h2 className="m-0 mb-2 text-[15px] font-[650]">Volumes</h2>
          <ul className="m-0 list-none p-0">
            {volumes?.map((v) => (
              <li key={v.id} className="border-b border-line/70 py-1.5">
                <div className="flex justify-between gap-3">
                  <span>
                    {v.label} {!v.here && <span className="text-lemon">away</span>}
                  </span>
                  <span className="text-ink-2">
                    {plural(v.clips, 'clip')}
                    {v.free !== null && `, ${bytes(v.free)} free`}
                  </span>
                </div>
                <div className="mono wrap-anywhere text-ink-3">{v.here ? v.path : v.cause}</div>
                <div className="flex items-center gap-2 text-xs text-ink-3">
                  {knownBy[v.knownBy]}
                  {v.here && v.knownBy === 'path' && (
                    <Button
                      quiet
                      title="Writes a small file to it, so that it is recognised wherever it is mounted"
                      onClick={() => void act(mark(v.id), `${v.label} now carries a marker and is recognised wherever it is mounted.`)}
                    >
                      Mark it
                    </Button>
                  )}
                </div>
              </li>
            ))}
          </ul>
          <CardReader />
        </section>
        <section>
          <h2 className="m-0 mb-2 text-[15px] font-[650]">History</h2>
          <ul className="m-0 list-none p-0">
            {changes?.map((c) => (
              <li key={c.id} className={`flex items-start gap-2 border-b border-line/70 py-1.5 ${c.undone ? 'text-ink-3' : ''}`}>
                <div className="min-w-0 flex-1">
                  <span className={c.undone ? 'line-through' : ''}>{c.sentence}</span>
                  <div className="text-xs text-ink-3">
                    {c.who}, {new Date(c.when).toLocaleString('en-GB')}
                    {c.undone && ', taken back'}
                  </div>
                </div>
                {!c.undone && (
                  <Button quiet className="py-0.5" aria-label={`Undo: ${c.sentence}`} onClick={() => undo(id, c.id)}>
                    Undo
                  </Button>
                )}
              </li>
            ))}
            {changes?.length === 0 && <li className="text-ink-3">Nothing has been changed by hand yet.</li>}
          </ul>
        </section>
      </div>
    </>
  )
}
