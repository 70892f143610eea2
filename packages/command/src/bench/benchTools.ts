/** What every figure is measured with. */
import { readFileSync } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import type { ProjectRow } from '@naranja/contract'
import type { Client } from '../client/index.ts'
import { dataFolder } from '../base/index.ts'

export interface Figure {
  readonly name: string
  readonly value: number
  readonly goal: number
  readonly unit: 'ratio' | 'MB' | 'ms' | 's'
}

export const folder = join(dataFolder, 'bench')
export const scratch = join(folder, 'scratch')

/** For how long the processors of this machine have worked, in ticks, and that its host gave to others while something waited to be worked on (Linux; proc(5), /proc/stat). */
function processors(): { busy: number; stolen: number } {
  try {
    const [user = 0, nice = 0, system = 0, , , irq = 0, soft = 0, stolen = 0] =
      readFileSync('/proc/stat', 'utf8').split('\n')[0]?.trim().split(/\s+/).slice(1).map(Number) ?? []
    return { busy: user + nice + system + irq + soft, stolen }
  } catch {
    return { busy: 0, stolen: 0 }
  }
}

/**
 * Begins to count milliseconds. On a machine of a cloud the host may take half of a minute away from one side of a comparison and nothing from the other:
 * from a second on, such time is left out, by which whatever works is stretched in the same measure.
 */
export function stopwatch(): () => number {
  const [began, before] = [performance.now(), processors()]
  return () => {
    const took = performance.now() - began
    const now = processors()
    const [busy, stolen] = [now.busy - before.busy, now.stolen - before.stolen]
    return took < 1000 || busy <= 0 ? took : (took * busy) / (busy + stolen)
  }
}

/** Milliseconds that something takes (`stopwatch`). */
export const timed = async (f: () => Promise<unknown> | unknown): Promise<number> => {
  const watch = stopwatch()
  await f()
  return watch()
}
export const median = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)] ?? 0

/** From the least to the most of them, in words. */
export const spread = (list: readonly number[]): string => `${Math.min(...list).toFixed(2)} to ${Math.max(...list).toFixed(2)}`

/** A folder for what is measured, empty. */
export async function emptied(name: string): Promise<string> {
  const path = join(scratch, name)
  await rm(path, { recursive: true, force: true })
  await mkdir(path, { recursive: true })
  return path
}

/** A project with everything below these folders taken in, and the milliseconds it took. */
export async function takeIn(client: Client, name: string, paths: readonly string[]): Promise<{ project: ProjectRow; milliseconds: number }> {
  const project = await client.ask('createProject', { name, rate: '25', width: 1920, height: 1080 })
  const folders: { volumeId: string; ref: string }[] = []
  for (const path of paths) folders.push({ volumeId: (await client.ask('openVolume', { path })).id, ref: '' })
  const milliseconds = await timed(async () => {
    const tasks = await client.finish(await client.ask('takeIn', { projectId: project.id, folders }))
    const failed = tasks.find((t) => t.state !== 'done')
    if (failed) throw new Error(failed.error)
  })
  // What follows by itself is no part of what is measured after.
  for (const kind of ['listen', 'prove'] as const) await client.settled(project.id, kind)
  return { project, milliseconds }
}
