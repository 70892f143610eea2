/** The project's settings, its history, and the volumes it knows. */
import { Head } from '../../ui/index.ts'
import { History } from './History.tsx'
import { ProjectForm } from './ProjectForm.tsx'
import { Volumes } from './Volumes.tsx'

export function Settings() {
  return (
    <>
      <Head title="Settings" />
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)_minmax(0,1fr)] gap-6 overflow-auto p-4">
        <ProjectForm />
        <Volumes />
        <History />
      </div>
    </>
  )
}
