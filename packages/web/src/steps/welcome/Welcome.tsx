/** All projects, and a first one. */
import { rateText } from '@naranja/core/time'
import { useForm } from 'react-hook-form'
import { Link, useNavigate } from 'react-router'
import { api } from '../../api/index.ts'
import { showAdding, useAct, useAppDispatch } from '../../state/index.ts'
import { Messages, Warnings } from '../../pieces/index.ts'
import { Button, Field, inputLook, Segments } from '../../ui/index.ts'

export function Welcome() {
  const { data } = api.useProjectsQuery()
  const [create] = api.useCreateProjectMutation()
  const navigate = useNavigate()
  const act = useAct()
  const dispatch = useAppDispatch()
  const form = useForm({ defaultValues: { name: '', rate: '' } })
  const submit = form.handleSubmit(async ({ name, rate }) => {
    const project = await act(create({ ...(name.trim() ? { name } : {}), ...(rate ? { rate } : {}) }))
    if (!project) return
    dispatch(showAdding({}))
    void navigate(`/p/${project.id}/originals`)
  })
  return (
    <main className="grid h-full grid-rows-[auto_minmax(0,1fr)]">
      <Warnings />
      <div className="flex items-start justify-center overflow-auto pt-[12vh]">
        <div className="flex w-[720px] gap-12">
          <div className="flex-1">
            <div className="mb-6 flex items-center gap-3">
              <Segments stations={['reached', 'reached', 'reached', 'reached']} size={56} />
              <div>
                <h1 className="m-0 text-2xl font-[650]">Naranja</h1>
                <p className="m-0 text-ink-2">From originals to edit copies, and back again to the frame.</p>
              </div>
            </div>
            <h2 className="mb-2 text-[15px] font-[650]">Projects</h2>
            <ul className="m-0 list-none p-0">
              {data?.map((p) => (
                <li key={p.id}>
                  <Link to={`/p/${p.id}/originals`} className="flex items-center gap-3 rounded-md px-3 py-2 hover:bg-raised">
                    <span className="font-[550]">{p.name}</span>
                    <span className="ml-auto text-ink-3">
                      {rateText(p.rate)} fps · {p.width}×{p.height}
                    </span>
                  </Link>
                </li>
              ))}
              {data?.length === 0 && (
                <li className="text-ink-2">There are no projects yet. Start one on the right, then add the folders with your originals.</li>
              )}
            </ul>
            <p className="mt-6 text-ink-2">
              New here? The{' '}
              <Link to="/guide" className="text-ink underline">
                guide
              </Link>{' '}
              has a page for each step.
            </p>
          </div>
          <form onSubmit={submit} className="mt-[74px] flex w-[240px] flex-col gap-3">
            <h2 className="m-0 text-[15px] font-[650]">New project</h2>
            <Field label="Name" hint="If left empty, it is named after the first folder.">
              {(id) => <input id={id} className={inputLook} {...form.register('name')} />}
            </Field>
            <Field label="Frame rate" hint="If left empty, it becomes the rate of most originals.">
              {(id) => <input id={id} placeholder="25, 23.976, 24000/1001" className={inputLook} {...form.register('rate')} />}
            </Field>
            <Button main type="submit">
              Start project
            </Button>
          </form>
        </div>
        <Messages />
      </div>
    </main>
  )
}
