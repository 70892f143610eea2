/** `./naranja save` and `./naranja restore`: the application's own data as one file, and back. */
import { existsSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { bytesText } from '@naranja/core/estimate'
import type { Config } from '@naranja/server/config'
import { keepSave, readSave, restoreFrom, SaveError, saveTo } from '@naranja/server/database'
import { during, Instance, instanceFolder } from './instance/index.ts'
import { minuteOf, say } from './base/index.ts'

const usage = `Everything Naranja knows (projects, descriptions, decisions, cuts, history, settings) as one file, and back.
Media, edit copies and masters are not in it, nor are passwords and keys.

  ./naranja save --to FILE [--of NAME]        saves it, also while people work; checked by loading it again
  ./naranja restore FILE [--of NAME]          puts it in place of what is there, which is saved before

  --of   own (what ./naranja start works in, else) or demo

Every day a save is made by itself; the last seven lie in .naranja/NAME/saves.`

/** Does `work` with the database of an instance: the one that runs, or started for it. */
async function withDatabase<T>(name: string, work: (config: Config) => Promise<T>): Promise<T> {
  const state = await Instance.state(instanceFolder(name))
  if (typeof state === 'object') return work(state.config)
  const instance = new Instance(name, { roots: [], parents: [] })
  return during(
    instance,
    () => work(instance.config),
    [],
    () => instance.startServices(),
  )
}

function options(args: readonly string[]): { to: string | undefined; of: string; file: string | undefined; help: boolean } {
  try {
    const { values, positionals } = parseArgs({
      args: [...args],
      allowPositionals: true,
      options: { to: { type: 'string' }, of: { type: 'string' }, help: { type: 'boolean', short: 'h' } },
    })
    const of = values.of ?? 'own'
    if (of !== 'own' && of !== 'demo') throw new Error(`--of is own or demo, not "${of}".`)
    return { to: values.to, of, file: positionals[0], help: values.help ?? false }
  } catch (e) {
    throw new SaveError(`${e instanceof Error ? e.message : e}\n\n${usage}`)
  }
}

async function told(work: () => Promise<number>): Promise<number> {
  try {
    return await work()
  } catch (e) {
    if (!(e instanceof SaveError)) throw e
    say(e.message)
    return 2
  }
}

export const save = (args: readonly string[]): Promise<number> =>
  told(async () => {
    const o = options(args)
    if (o.help) {
      process.stdout.write(`${usage}\n`)
      return 0
    }
    if (!o.to || o.file) throw new SaveError(`${o.to ? `"${o.file}" is not an option.` : '--to is missing: the file to write.'}\n\n${usage}`)
    const path = resolve(o.to)
    if (existsSync(path)) throw new SaveError(`${path} stands there already, and is not written over. Choose another name.`)
    if (!existsSync(join(path, '..'))) throw new SaveError(`The folder of ${path} is not there.`)
    if ((await Instance.state(instanceFolder(o.of))) === 'none') throw new SaveError(`There is nothing to save: ${instanceFolder(o.of)} holds no instance.`)
    const done = await withDatabase(o.of, (config) => saveTo(config, path))
    say(`${path}: everything as it stood at ${minuteOf(done.made)} UTC, ${bytesText(done.bytes)}. It was loaded again, and is what was written.`)
    return 0
  })

export const restore = (args: readonly string[]): Promise<number> =>
  told(async () => {
    const o = options(args)
    if (o.help) {
      process.stdout.write(`${usage}\n`)
      return 0
    }
    if (!o.file || o.to) throw new SaveError(`${o.to ? '--to is not an option of restore.' : 'The file to restore is missing.'}\n\n${usage}`)
    const path = resolve(o.file)
    const folder = instanceFolder(o.of)
    const before = await Instance.state(folder)
    if (typeof before === 'object') throw new SaveError('Naranja is running. End it first, by ./naranja stop, and restore then.')
    await readSave(path)
    const head = await withDatabase(o.of, async (config) => {
      if (before !== 'none') say(`What is there now was saved as ${await keepSave(config, 'before a restore')}.`)
      return restoreFrom(config, path)
    })
    say(
      `Everything is as it stood at ${minuteOf(head.made)} UTC. ./naranja ${o.of === 'own' ? 'start' : 'demo'} goes on from there; files that are gone since are told as gone.`,
    )
    return 0
  })
