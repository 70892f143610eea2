/** While a checkout is worked on: what is saved is built again, and the processes begin anew with it. */
import { join } from 'node:path'
import { watch } from 'chokidar'
import { buildServerAgain, buildWeb, home, say } from '../base/index.ts'
import type { Instance } from './instance.ts'

/** For how long no file may have changed before it is built, in milliseconds: an editor saves several, one after another. */
const calm = 300

/**
 * Calls `build` each time files below some folders have been saved, never twice at once: what is saved meanwhile is built after it. What fails is said,
 * and the next save is built all the same. Resolves once files are watched, with what ends that.
 */
export async function onSaved(folders: readonly string[], build: () => Promise<void>): Promise<() => Promise<void>> {
  let building: Promise<void> = Promise.resolve()
  let due: NodeJS.Timeout | undefined
  const failed = (e: unknown) => say(`${e instanceof Error ? e.message : e}\nIt is built again when something is saved.`)
  const files = watch([...folders], { ignoreInitial: true, ignored: (path) => path.includes('.test.') })
  files.on('all', () => {
    clearTimeout(due)
    due = setTimeout(() => {
      building = building.then(build).catch(failed)
    }, calm)
  })
  await new Promise<void>((resolve) => files.once('ready', () => resolve()))
  return async () => {
    clearTimeout(due)
    await files.close()
    await building
  }
}

/** Builds the page into `web`, and API and worker, each time a source of theirs is saved; the processes begin anew where theirs has changed. */
export function keepBuilding(instance: Pick<Instance, 'renew'>, web: string): Promise<() => Promise<void>> {
  const folders = ['core', 'xml', 'contract', 'media', 'server', 'web'].map((p) => join(home, 'packages', p, 'src'))
  return onSaved(folders, async () => {
    const began = performance.now()
    await buildWeb(web, 'development')
    const others = await buildServerAgain()
    if (others) await instance.renew()
    say(`Built in ${((performance.now() - began) / 1000).toFixed(1)} s. ${others ? 'API and worker have begun anew.' : 'Load the page again to see it.'}`)
  })
}
