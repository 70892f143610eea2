/** What a project is called, its rate and its raster, and whether it may be finished from intermediates. */
import type { FinishingRule } from '@naranja/contract'
import { rateFraction, rateText } from '@naranja/core/time'
import { useEffect, useRef } from 'react'
import { useForm } from 'react-hook-form'
import { api } from '../../api/index.ts'
import { useAct, useEditProject, useProject, useProjectId } from '../../state/index.ts'
import { Button, Field, inputLook } from '../../ui/index.ts'

export function ProjectForm() {
  const project = useProject()
  const { data: summary } = api.useSummaryQuery(useProjectId())
  const [edit] = useEditProject()
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
      <FinishingChoice />
    </form>
  )
}

function FinishingChoice() {
  const id = useProjectId()
  const { data: rule } = api.useFinishingRuleQuery(id)
  const [setRule] = api.useSetFinishingRuleMutation()
  const act = useAct()
  return (
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
  )
}
