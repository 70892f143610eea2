/** Specs: what edit copies are made by. The outcome is seen while it is changed. */
import type { ClipRow, SpecDraft, SpecRow } from '@naranja/contract'
import { SpecFile } from '@naranja/contract'
import { pictureBits, sizeUnder, faultsOf } from '@naranja/core/specs'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { useNavigate, useParams } from 'react-router'
import { api } from '../../api/index.ts'
import { chooseSpecs, tell, useAct, useAppDispatch, useProject, useProjectId } from '../../state/index.ts'
import { Button, dataRate, Head, listHeading, plural } from '../../ui/index.ts'
import { draftOf, freeName, fresh, openSpec, specOfDraft } from './draft.ts'
import { OutcomeFigures } from './OutcomeFigures.tsx'
import { PreviewPair } from './PreviewPair.tsx'
import { codingName, SpecForm } from './SpecForm.tsx'

export function Specs() {
  const projectId = useProjectId()
  const { code } = useParams()
  const navigate = useNavigate()
  const { data: specs, isFetching } = api.useSpecsQuery({ projectId })
  const act = useAct()
  const [add] = api.useAddSpecMutation()
  const file = useRef<HTMLInputElement>(null)
  const dispatch = useAppDispatch()
  /** A new one that is being made, or is made and not yet both in the list and in the address: nobody may type into another meanwhile. */
  const [coming, setComing] = useState<string | null>(null)
  const chosen = openSpec(specs ?? [], { coming, inAddress: code, listIsComing: isFetching })
  const arrived = coming !== null && coming === code && chosen !== undefined
  useEffect(() => {
    if (arrived) setComing(null)
  }, [arrived])
  const open = (c: string) => void navigate(`/p/${projectId}/specs/${c}`)
  const addDraft = async (draft: SpecDraft, said: string) => {
    setComing('')
    const made = await act(add({ ...draft, name: freeName(draft.name, specs?.map((s) => s.name) ?? []) }), said)
    setComing(made?.code ?? null)
    if (!made) return
    dispatch(chooseSpecs([made.code]))
    open(made.code)
  }
  const take = async (f: File) => {
    try {
      const { spec } = SpecFile.parse(JSON.parse(await f.text()))
      await addDraft(spec, `${spec.name} is imported from ${f.name}.`)
    } catch {
      dispatch(tell({ text: `${f.name} is not a spec file: it must be JSON with "format": "spec 1" and a spec inside (docs/specs.md).`, kind: 'refused' }))
    }
  }
  return (
    <>
      <Head title="Specs" sub={<span>the settings that edit copies are made with and checked against</span>}>
        <Button onClick={() => file.current?.click()}>Import …</Button>
        <input
          ref={file}
          type="file"
          aria-label="Spec file"
          accept=".json,application/json"
          className="sr-only"
          tabIndex={-1}
          onChange={(e) => {
            const f = e.target.files?.[0]
            e.target.value = ''
            if (f) void take(f)
          }}
        />
        <Button onClick={() => void addDraft(fresh('New spec'), 'A new spec is there to be changed.')}>New spec</Button>
      </Head>
      <div className="grid min-h-0 flex-1 grid-cols-[208px_minmax(0,1fr)_356px]">
        <nav aria-label="Specs" className="flex min-h-0 flex-col gap-1 overflow-auto border-r border-line p-2">
          {(['proxy', 'intermediate'] as const).map((kind) => (
            <div key={kind}>
              <h2 className={listHeading}>{kind === 'proxy' ? 'Proxies' : 'Intermediates'}</h2>
              {specs
                ?.filter((s) => s.kind === kind)
                .map((s) => (
                  <button
                    key={s.code}
                    type="button"
                    aria-current={s.code === chosen?.code}
                    onClick={() => {
                      setComing(null)
                      open(s.code)
                    }}
                    className="flex w-full flex-col rounded-md px-2 py-1.5 text-left aria-[current=true]:bg-raised aria-[current=true]:shadow-[inset_0_0_0_1px_var(--ink-2)]"
                  >
                    <span>{s.name}</span>
                    <span className="text-xs text-ink-3">
                      {codingName(s.coding)}
                      {s.isDefault ? ' · the default' : ''}
                    </span>
                  </button>
                ))}
            </div>
          ))}
        </nav>
        {chosen && <Open key={chosen.code} spec={chosen} all={specs ?? []} onAdd={addDraft} />}
      </div>
    </>
  )
}

/** Changes that are not saved yet, by code and version: they are there again when somebody comes back to the spec. */
const unsaved = new Map<string, SpecDraft>()

/** One spec, as it is and as it is being changed. */
function Open({ spec, all, onAdd }: { spec: SpecRow; all: readonly SpecRow[]; onAdd: (d: SpecDraft, said: string) => Promise<void> }) {
  const projectId = useProjectId()
  const project = useProject()
  const kept = useMemo(() => draftOf(strip(spec)), [spec])
  const form = useForm<SpecDraft>({ defaultValues: unsaved.get(`${spec.code} ${spec.version}`) ?? kept })
  const draft = useWatch({ control: form.control }) as SpecDraft
  /** What is saved as far as this page knows, and what changes begin from: somebody else's later version is never written over. */
  const [base, setBase] = useState({ spec: kept, version: spec.version })
  const changed = JSON.stringify(draft) !== JSON.stringify(base.spec)
  useEffect(() => {
    // A later version of somebody else's is taken over where nothing would be lost.
    if (spec.version <= base.version || JSON.stringify(form.getValues()) !== JSON.stringify(base.spec)) return
    form.reset(kept)
    setBase({ spec: kept, version: spec.version })
  }, [spec.version, kept, base, form])
  const key = `${spec.code} ${base.version}`
  useEffect(() => {
    if (changed) unsaved.set(key, draft)
    else unsaved.delete(key)
  }, [changed, draft, key])
  const faults = faultsOf(specOfDraft(draft))
  const act = useAct()
  const [change, { isLoading }] = api.useChangeSpecMutation()
  const [remove] = api.useRemoveSpecMutation()
  const [setDefault] = api.useSetDefaultSpecMutation()
  const dispatch = useAppDispatch()
  const clips = api.useClipsInfiniteQuery({ projectId, sort: 'place' })
  const rows = useMemo(() => clips.data?.pages.flatMap((p) => p.rows).filter((r) => r.hasPicture && !r.away) ?? [], [clips.data])
  const [clipId, setClipId] = useState<string | null>(null)
  const clip: ClipRow | undefined = rows.find((r) => r.id === clipId) ?? rows[0]
  useEffect(() => {
    const leaving = (e: BeforeUnloadEvent) => changed && e.preventDefault()
    window.addEventListener('beforeunload', leaving)
    return () => window.removeEventListener('beforeunload', leaving)
  }, [changed])
  const save = async () => {
    const mine = { code: spec.code, spec: draft }
    const saved = await act(
      change({ ...mine, version: base.version }),
      (v) => `${draft.name} is saved as version ${v.version}.`,
      undefined,
      (now: { version: number }) => change({ ...mine, version: now.version }),
    )
    if (!saved) return
    setBase({ spec: draft, version: saved.version })
    dispatch(chooseSpecs([spec.code]))
  }
  const makeDefault = () => {
    const { code } = spec
    const now = all.find((s) => s.isDefault)?.code
    void act(setDefault({ code, seen: now }), `${spec.name} is the default now.`, undefined, (then: { default: string }) =>
      setDefault({ code, seen: then.default }),
    )
  }
  // One that nobody has used yet is saved as soon as it is named.
  const named = () => {
    if (draft.name !== base.spec.name && base.version === 1 && spec.copies === 0 && faults.length === 0 && !isLoading) void save()
  }
  const exported = () => {
    const url = URL.createObjectURL(new Blob([`${JSON.stringify({ format: 'spec 1', spec: draft }, null, 2)}\n`], { type: 'application/json' }))
    Object.assign(document.createElement('a'), { href: url, download: `${draft.name.replace(/[/\\]/g, '_')}.spec.json` }).click()
    setTimeout(() => URL.revokeObjectURL(url), 1000)
  }
  const size = clip ? sizeUnder(specOfDraft(draft), clip) : null
  const rate = draft.rate === 'project' && project ? project.rate : clip?.rate
  return (
    <>
      <div className="flex min-h-0 min-w-0 flex-col gap-2 overflow-auto border-r border-line p-3">
        <PreviewPair clip={clip} clips={rows} onClip={setClipId} draft={draft} />
        {size && rate && (
          <p className="m-0 text-ink-2">
            {draft.purpose ? `${draft.purpose} ` : ''}
            {codingName(draft.coding)} at {dataRate(pictureBits(specOfDraft(draft), size, rate))} for this clip.
          </p>
        )}
        <OutcomeFigures draft={draft} />
      </div>
      <section aria-label={spec.name} className="flex min-h-0 flex-col">
        <div className="min-h-0 flex-1 overflow-auto px-3">
          <SpecForm draft={draft} onNamed={named} onChange={(d) => form.reset(d, { keepDefaultValues: true })} />
          <Versions code={spec.code} now={base.version} onTake={(d) => form.reset(d, { keepDefaultValues: true })} />
        </div>
        <div className="flex flex-col gap-2 border-t border-line p-3">
          {changed && spec.copies > 0 && (
            <p className="m-0 text-xs text-ink-2">
              {plural(spec.copies, 'copy', 'copies')} made by version {base.version} or before stay as they are.
            </p>
          )}
          {!changed && (
            <p className="m-0 text-xs text-ink-3">
              Version {base.version}
              {spec.copies ? `, ${plural(spec.copies, 'copy', 'copies')} here` : ''}
              {spec.older ? `, ${spec.older} by earlier versions` : ''}
            </p>
          )}
          <div className="flex flex-wrap gap-1.5">
            <Button main disabled={!changed || faults.length > 0 || isLoading} onClick={() => void save()}>
              Save as version {base.version + 1}
            </Button>
            {changed && <Button onClick={() => form.reset(base.spec)}>Discard</Button>}
            <Button onClick={() => void onAdd(draft, `${draft.name} is duplicated.`)} disabled={faults.length > 0}>
              Duplicate
            </Button>
            <Button onClick={exported}>Export</Button>
            {!spec.isDefault && <Button onClick={makeDefault}>Make default</Button>}
            {all.length > 1 && (
              <Button
                quiet
                onClick={async () => {
                  if (await act(remove(spec.code))) dispatch(tell({ text: `${spec.name} is removed. Its copies stay.`, spec: spec.code }))
                }}
              >
                Remove
              </Button>
            )}
          </div>
        </div>
      </section>
    </>
  )
}

/** A row without what the list adds to a spec. */
const strip = ({ isDefault: _i, shipped: _s, copies: _c, older: _o, ...rest }: SpecRow) => rest

function Versions({ code, now, onTake }: { code: string; now: number; onTake: (d: SpecDraft) => void }) {
  const { data } = api.useSpecVersionsQuery(code, { skip: now < 2 })
  if (!data || data.length < 2) return null
  return (
    <details className="py-2">
      <summary className="cursor-pointer font-[650]">Versions ({data.length})</summary>
      <ul className="m-0 mt-1 flex list-none flex-col gap-1 p-0">
        {data.map((v) => (
          <li key={v.version} className="flex items-center gap-2 text-ink-2">
            {v.version}
            <span className="text-xs text-ink-3">
              {new Date(v.made).toLocaleString('en-GB')}
              {v.who ? `, ${v.who}` : ''}
            </span>
            {v.version !== now && (
              <Button className="ml-auto py-0" onClick={() => onTake(draftOf(v.spec))}>
                Use these settings
              </Button>
            )}
          </li>
        ))}
      </ul>
    </details>
  )
}
