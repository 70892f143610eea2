/** A look tried on what is shown, without changing anything; and scopes. */
import { useRef } from 'react'
import { api } from '../../api/index.ts'
import { showScopes, tryLook, useAct, useAppDispatch, useAppSelector, useProjectId } from '../../state/index.ts'
import { base64Of, Button, Select } from '../../ui/index.ts'

/** The look that is tried on a clip; null for none. */
export const useTriedLook = (clipId: string | null): string | null =>
  useAppSelector((s) => (s.face.look && (s.face.look.clipId === null || s.face.look.clipId === clipId) ? s.face.look.id : null))

export function LookTrial({ clipId }: { clipId: string }) {
  const projectId = useProjectId()
  const dispatch = useAppDispatch()
  const { data: looks } = api.useLooksQuery(projectId)
  const [add] = api.useAddLookMutation()
  const [forget] = api.useForgetLookMutation()
  const act = useAct()
  const look = useTriedLook(clipId)
  const [give] = api.useSetClipLookMutation()
  const own = api.useClipQuery(clipId).data?.lookId ?? null
  const ownName = looks?.find((l) => l.id === own)?.name
  const all = useAppSelector((s) => s.face.look?.clipId === null)
  const scopes = useAppSelector((s) => s.face.scopes)
  const file = useRef<HTMLInputElement>(null)
  const choose = (id: string | null, onAll = all) => dispatch(tryLook(id ? { id, clipId: onAll ? null : clipId } : null))
  return (
    <div className="flex flex-wrap items-center gap-1.5 border-t border-line px-2 py-1.5">
      <Select label="Look to try" value={look ?? ''} onChange={(v) => (v === 'file' ? file.current?.click() : choose(v || null))} className="max-w-[150px]">
        <option value="">No look</option>
        {looks?.map((l) => (
          <option key={l.id} value={l.id}>
            {l.name}
          </option>
        ))}
        <option value="file">From a file …</option>
      </Select>
      <input
        ref={file}
        type="file"
        aria-label="Look file"
        accept=".cube,.cdl,.ccc,.cc"
        className="sr-only"
        tabIndex={-1}
        onChange={async (e) => {
          const f = e.target.files?.[0]
          e.target.value = ''
          if (!f) return
          const rows = await act(add({ projectId, name: f.name, base64: await base64Of(f) }))
          if (rows?.[0]) choose(rows[0].id)
        }}
      />
      {look && (
        <>
          <label className="flex items-center gap-1.5 text-ink-2">
            <input type="checkbox" className="accent-zest" checked={all} onChange={(e) => choose(look, e.target.checked)} /> on all
          </label>
          <Button
            quiet
            className="px-1.5 py-0.5"
            onClick={() => {
              dispatch(tryLook(null))
              void act(forget(look))
            }}
          >
            Forget it
          </Button>
        </>
      )}
      {(look || own) && (
        <Select
          label="Apply the look to"
          className="max-w-[132px]"
          value=""
          onChange={(v) => {
            const [to, which] = v.split(' ') as ['clip' | 'roll' | 'camera' | 'ticked' | 'all', string]
            if (!to) return
            const mine = { projectId, clipId, to, lookId: which === 'none' ? null : look }
            // Of others than this clip nothing is seen: they get what it gets.
            const before = to === 'clip' ? { seen: own } : {}
            void act(
              give({ ...mine, ...before }),
              (c) => c.sentence,
              projectId,
              (now: string | null) => give({ ...mine, seen: now }),
            )
          }}
        >
          <option value="">{ownName ? `Its look: ${ownName}` : 'Give it to …'}</option>
          {look && (
            <>
              <option value="clip look">this clip</option>
              <option value="roll look">its roll</option>
              <option value="camera look">its camera</option>
              <option value="ticked look">ticked clips</option>
              <option value="all look">all clips</option>
            </>
          )}
          {own && <option value="clip none">none for this clip</option>}
          {own && <option value="all none">none for all</option>}
        </Select>
      )}
      <Button aria-pressed={scopes} className="ml-auto py-0.5" onClick={() => dispatch(showScopes(!scopes))}>
        Scopes
      </Button>
    </div>
  )
}
