/** `./naranja worker --join ADDRESS`: a worker of an instance that runs on another machine. */
import { spawn } from 'node:child_process'
import { mkdirSync, statSync, writeFileSync } from 'node:fs'
import { type AddressInfo, createServer, type Server } from 'node:net'
import { availableParallelism, hostname } from 'node:os'
import { join as pathOf, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { connect, type TLSSocket } from 'node:tls'
import { tiedTo } from '@naranja/media/process'
import type { Config } from '@naranja/server/config'
import { doorVersion, greeting, join, type Joined } from '@naranja/server/door'
import { type Address, fonts, home, minuteOf, parseAddress, say, serving } from './base/index.ts'
import { Client } from './client/index.ts'
import { Instance, instanceFolder } from './instance/index.ts'

const help = `A worker for an instance on another machine. There, while ./naranja start --listen runs:

  ./naranja worker --new NAME         makes an address for a worker; whoever has it can work there
  ./naranja worker --list             who has one, since when, and when it was used last
  ./naranja worker --take-back NAME   lets that one in no more

And on the machine of the worker:

  ./naranja worker --join ADDRESS [--volume NAME=PATH ...] [--name NAME] [--tasks N]

  --join      the address that was made for it there
  --volume    where this machine sees a volume, where that cannot be told by its file system; once for each
  --name      what this machine is called in the queue (else its own name)
  --tasks     how many tasks it does at once (else 2)`

const plain = (fingerprint: string): string => fingerprint.replace(/:/g, '').toLowerCase()

/** A way through the door. It is known by its certificate alone: no authority vouches for a machine on a set. */
function through(a: Address, to: 'config' | 'database' | 'queue'): Promise<TLSSocket> {
  return new Promise((resolve, reject) => {
    const socket = connect({ host: a.host, port: a.port, rejectUnauthorized: false, minVersion: 'TLSv1.3' })
    const fail = (text: string) => {
      socket.destroy()
      reject(new Error(text))
    }
    socket.once('error', (e) => fail(`${a.host}:${a.port} cannot be reached: ${e.message}. Is it running with --listen, and does the network let it through?`))
    socket.setTimeout(15_000, () => fail(`${a.host}:${a.port} does not answer.`))
    socket.once('secureConnect', () => {
      if (plain(socket.getPeerCertificate().fingerprint256 ?? '') !== a.fingerprint)
        return fail(`${a.host}:${a.port} is not the machine that the address is of. Nothing was sent to it.`)
      socket.write(greeting(a.token, to))
      let said = Buffer.alloc(0)
      const hear = (chunk: Buffer) => {
        said = Buffer.concat([said, chunk])
        const end = said.indexOf(10)
        if (end < 0) return
        socket.off('data', hear)
        socket.pause()
        socket.setTimeout(0)
        const answer = said.toString('latin1', 0, end)
        if (answer.startsWith('version '))
          return fail(`${a.host}:${a.port} runs another version of Naranja (${answer.slice(8)}; here it is ${doorVersion}). Bring both to the same.`)
        if (answer !== 'ok') return fail('It was not let in: the address was taken back or replaced, or is mistyped.')
        if (said.length > end + 1) socket.unshift(said.subarray(end + 1))
        socket.removeAllListeners('error')
        resolve(socket)
      }
      socket.on('data', hear)
    })
  })
}

async function told(a: Address): Promise<Joined> {
  const socket = await through(a, 'config')
  let text = ''
  for await (const chunk of socket) text += String(chunk)
  return JSON.parse(text) as Joined
}

/** A port on loopback that leads through the door. */
async function passage(a: Address, to: 'database' | 'queue'): Promise<{ port: number; server: Server }> {
  const server = createServer((local) => {
    local.pause()
    local.on('error', () => local.destroy())
    through(a, to).then(
      (far) => join(local, far),
      () => local.destroy(),
    )
  })
  await new Promise<void>((ready) => server.listen(0, '127.0.0.1', ready))
  return { port: (server.address() as AddressInfo).port, server }
}

/** The volumes that were mapped, by id. Throws a sentence for one that is not known, or a path that is none. */
export function mappedVolumes(given: readonly string[], known: Joined['volumes']): Record<string, string> {
  const out: Record<string, string> = {}
  for (const g of given) {
    const at = g.indexOf('=')
    const [label, path] = [g.slice(0, at), resolve(g.slice(at + 1))]
    const volume = known.find((v) => v.label === label)
    if (at < 1 || !volume) throw new Error(`There is no volume called "${at < 1 ? g : label}" there. Known are ${known.map((v) => v.label).join(', ')}.`)
    if (!statSync(path, { throwIfNoEntry: false })?.isDirectory()) throw new Error(`${path} is not a folder here. Mount ${label} first.`)
    out[volume.id] = path
  }
  return out
}

/** Makes, lists and takes back what lets workers in, of the instance that runs here. */
async function letIn(values: { new?: string | undefined; 'take-back'?: string | undefined }): Promise<number> {
  const running = await Instance.running('own')
  if (!running) {
    say('Nothing is running here. Start it by ./naranja start --listen.')
    return 1
  }
  const client = new Client(running.address, running.config.key)
  if (values.new !== undefined) {
    process.stdout.write(`./naranja worker --join ${await Instance.joinAddress(running.config, hostname(), values.new)} --name ${JSON.stringify(values.new)}\n`)
    say('Whoever has this address can work here; give it to nobody else.')
  } else if (values['take-back'] !== undefined) {
    await client.ask('removeWorker', values['take-back'])
    say(`${values['take-back']} is let in no more.`)
  } else
    for (const t of await client.ask('workers'))
      process.stdout.write(`${t.name}, since ${minuteOf(t.made)} UTC, ${t.used ? `last used ${minuteOf(t.used)} UTC` : 'never used'}\n`)
  return 0
}

export async function worker(args: string[]): Promise<number> {
  const { values } = parseArgs({
    args,
    options: {
      join: { type: 'string' },
      volume: { type: 'string', multiple: true },
      name: { type: 'string' },
      tasks: { type: 'string' },
      new: { type: 'string' },
      list: { type: 'boolean' },
      'take-back': { type: 'string' },
      help: { type: 'boolean', short: 'h' },
    },
  })
  if (values.new !== undefined || values.list || values['take-back'] !== undefined) return letIn(values)
  if (values.help || !values.join) {
    say(help)
    return values.help ? 0 : 2
  }
  const address = parseAddress(values.join)
  if (!address) {
    say('This is not an address to join. It is made by ./naranja worker --new NAME on the other machine, and looks like host:port/letters.digits')
    return 2
  }
  const machine = values.name ?? hostname()
  const far = await told(address)
  const mapped = mappedVolumes(values.volume ?? [], far.volumes)
  const [database, queue] = await Promise.all([passage(address, 'database'), passage(address, 'queue')])
  const folder = pathOf(instanceFolder(`worker ${machine}`))
  mkdirSync(pathOf(folder, 'logs'), { recursive: true, mode: 0o700 })
  const config: Config = {
    ...{ instance: far.instance, folder, machine, user: far.user, joined: true, mapped, listen: null },
    database: { port: database.port, ...far.database },
    redis: { port: queue.port, ...far.redis },
    workers: { database: far.database, redis: far.redis },
    ...{ api: { port: 0 }, roots: [], parents: [], mounts: [], key: '', reader: null, web: '', fonts },
    concurrency: Math.max(1, Number(values.tasks) || Math.min(2, availableParallelism())),
  }
  writeFileSync(pathOf(folder, 'config.json'), JSON.stringify(config, null, 2), { mode: 0o600 })
  let ending = false
  const [program, ...given] = tiedTo(process.pid, await serving('worker', folder), 'TERM')
  const run = () => spawn(program, given, { cwd: home, stdio: ['ignore', 'ignore', 'inherit'] })
  let child = run()
  say(`${machine} works for ${far.instance} on ${address.host}. Ctrl-C ends it.`)
  await new Promise<void>((over) => {
    const again = () => {
      if (ending) return over()
      // The other machine may be starting anew.
      setTimeout(() => {
        if (ending) return over()
        child = run()
        child.on('exit', again)
      }, 1500)
    }
    child.on('exit', again)
    for (const s of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const)
      process.on(s, () => {
        ending = true
        if (child.exitCode !== null) over()
        else child.kill('SIGTERM')
      })
  })
  database.server.close()
  queue.server.close()
  return 0
}
