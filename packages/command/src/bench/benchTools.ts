/** What every figure is measured with. */
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

/** Milliseconds that something takes. */
export const timed = async (f: () => Promise<unknown> | unknown): Promise<number> => {
  const began = performance.now()
  await f()
  return performance.now() - began
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
  return { project, milliseconds }
}
