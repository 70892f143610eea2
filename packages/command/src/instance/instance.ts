/** An instance: a folder under `.naranja/` with a database, a queue, caches and logs of its own, and the processes that serve it. */
import { type ChildProcess, spawn } from 'node:child_process'
import { randomBytes, X509Certificate } from 'node:crypto'
import { appendFileSync, chmodSync, existsSync, mkdirSync, openSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { hostname, userInfo } from 'node:os'
import { join } from 'node:path'
import { processStart, tiedTo } from '@naranja/media/process'
import { ownTemporary, sweepTemporary } from '@naranja/media/temporary'
import { type Config, configPath, readConfig } from '@naranja/server/config'
import { steps } from '@naranja/server/steps'
import getPort from 'get-port'
import { execa } from 'execa'
import { addressText, dataFolder, fonts, home, say, serving, step, webDist } from '../base/index.ts'
import { Client } from '../client/index.ts'
import { databaseArgs, databaseStatements, queueSettings } from './servers.ts'
import { type Role, type Pids, instanceFolder, pidPath, readPids, lives, withRoom, end, answers, until } from './known.ts'

export interface InstanceOptions {
  readonly roots: Config['roots']
  readonly parents: readonly string[]
  /** Folders in which the system mounts media. */
  readonly mounts?: readonly string[]
  /** Folder instead of `.naranja/NAME`. */
  readonly folder?: string
  readonly concurrency?: number
  /** Name of this machine; its own by default. */
  readonly machine?: string
  /** The card reader that ships with the application. */
  readonly reader?: Config['reader']
  /** Opens a door for workers on other machines: the address it listens at, and its port (a free one where it is 0). */
  readonly listen?: { readonly host: string; readonly port: number }
  readonly web?: string
  /** A command that starts the API and the worker, given before theirs: one that takes rights from them, for instance. */
  readonly through?: readonly string[]
}

/**
 * The folders of every instance below the data folder, whatever started it: a start, a job, a measurement, a test. None lies deeper than
 * three folders down.
 */
export function instanceFolders(below = dataFolder, depth = 3): string[] {
  if (existsSync(pidPath(below)) || existsSync(configPath(below))) return [below]
  if (depth === 0 || !existsSync(below)) return []
  return readdirSync(below, { withFileTypes: true }).flatMap((e) => (e.isDirectory() ? instanceFolders(join(below, e.name), depth - 1) : []))
}

/** An instance for one command, whose folder goes when the command ends, and is told by its name where the command was killed. */
export const passing = (command: 'job' | 'fuzz'): string => `${command}-${process.pid}-${randomBytes(3).toString('hex')}`

/** Ends and removes what commands have left that were killed. */
async function sweepPassing(): Promise<void> {
  for (const name of existsSync(dataFolder) ? readdirSync(dataFolder) : []) {
    const pid = /^(?:job|fuzz)-(\d+)-[0-9a-f]{6}(?: files)?$/.exec(name)?.[1]
    if (pid === undefined || processStart(Number(pid)) !== null) continue
    await Instance.stop(instanceFolder(name))
    rmSync(instanceFolder(name), { recursive: true, force: true })
  }
}

let made = 0

export class Instance {
  readonly folder: string
  config!: Config
  private readonly children = new Map<Role, ChildProcess>()
  /** Aborted when it is to end, which ends a start that is under way too; another for each start. */
  private ending = new AbortController()
  private starting: Promise<unknown> | null = null
  private known: Pids = {}
  /** Which of this process's instances it is. */
  private readonly number = ++made
  /** When each process ended last, one role's apart from the others': a machine that wakes up ends all of them at once. */
  private readonly restarts = new Map<Role, number[]>()

  constructor(
    readonly name: string,
    private readonly options: InstanceOptions,
  ) {
    this.folder = options.folder ?? instanceFolder(name)
  }

  get address(): string {
    return `http://127.0.0.1:${this.config.api.port}`
  }

  /** An address that lets a browser in, once, within a day; opened at `path`. */
  static async addressOf(config: Config, path = '/'): Promise<string> {
    const address = `http://127.0.0.1:${config.api.port}`
    const { key } = await new Client(address, config.key).ask('newBrowser')
    return `${address}${path}?key=${key}`
  }

  /** Whether anything has been made in an instance's folder, and whether its database answers now. */
  static async state(folder: string): Promise<'none' | 'stopped' | { config: Config }> {
    if (!existsSync(configPath(folder)) || !existsSync(join(folder, 'mariadb.installed'))) return 'none'
    const config = readConfig(folder)
    return lives(readPids(folder).supervisor) && (await answers(config.database.port)) ? { config } : 'stopped'
  }

  /** The running instance's address, or null. */
  static async running(name: string, folder = instanceFolder(name)): Promise<{ address: string; config: Config } | null> {
    if (!lives(readPids(folder).supervisor) || !existsSync(configPath(folder))) return null
    const config = readConfig(folder)
    const address = `http://127.0.0.1:${config.api.port}`
    const health = await new Client(address).ask('health').catch(() => null)
    return health?.instance === name ? { address, config } : null
  }

  /** Ends every process of an instance that a former start has left, and nothing else. */
  static async stop(folder: string): Promise<boolean> {
    const pids = readPids(folder)
    const any = Object.values(pids).some(lives)
    if (pids.supervisor?.pid !== process.pid) await end(pids.supervisor, 25_000)
    for (const role of ['worker', 'api', 'redis', 'mariadb'] as const) await end(pids[role], role === 'mariadb' ? 20_000 : 6000)
    rmSync(pidPath(folder), { force: true })
    return any
  }

  /** Ports are found free and remembered; the config is written for this user alone. */
  private async prepare(): Promise<void> {
    mkdirSync(join(this.folder, 'logs'), { recursive: true, mode: 0o700 })
    let before: Config | null = null
    try {
      before = readConfig(this.folder)
    } catch {
      // A first start, or a config of an older version.
    }
    const secret = () => randomBytes(18).toString('base64url')
    const port = (wanted?: number) => getPort({ host: '127.0.0.1', ...(wanted ? { port: wanted } : {}) })
    this.config = {
      instance: this.name,
      folder: this.folder,
      database: { port: await port(before?.database.port), user: 'naranja', password: before?.database.password ?? secret() },
      redis: { port: await port(before?.redis.port), user: 'default', password: before?.redis.password ?? secret() },
      workers: before?.workers ?? { database: { user: 'naranja_worker', password: secret() }, redis: { user: 'worker', password: secret() } },
      api: { port: await port(before?.api.port) },
      roots: this.options.roots,
      parents: [...this.options.parents],
      mounts: [...(this.options.mounts ?? [])],
      key: before?.key ?? secret(),
      ...{ joined: false, mapped: {}, listen: await this.door(before?.listen ?? null) },
      machine: this.options.machine ?? hostname(),
      reader: this.options.reader ?? null,
      concurrency: this.options.concurrency ?? 2,
      fonts,
      web: this.options.web ?? webDist,
      user: userInfo().username,
    }
    writeFileSync(configPath(this.folder), JSON.stringify(this.config, null, 2), { mode: 0o600 })
  }

  /** Certificate and key of the door: made once, so that an address that was given goes on to hold. */
  private async door(before: Config['listen']): Promise<Config['listen']> {
    const { listen } = this.options
    if (!listen) return null
    const [cert, key] = [join(this.folder, 'door.pem'), join(this.folder, 'door.key')]
    if (!existsSync(cert) || !existsSync(key)) {
      const made = ['-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:P-256', '-nodes', '-days', '36500', '-subj', '/CN=naranja']
      await execa('openssl', ['req', ...made, '-keyout', key, '-out', cert], { stdio: ['ignore', 'ignore', 'pipe'] })
      chmodSync(key, 0o600)
    }
    const port = listen.port || (await getPort({ host: listen.host, ...(before ? { port: before.port } : {}) }))
    return { host: listen.host, port, cert, key }
  }

  /** What a worker on another machine joins by: an address for the one of this name, in place of the one it had. */
  static async joinAddress({ api, key, listen }: Config, host: string, name: string): Promise<string> {
    const { token } = await new Client(`http://127.0.0.1:${api.port}`, key).ask('newWorker', { name })
    if (!listen) throw new Error('The door for workers is closed. Start Naranja with --listen to open it.')
    const fingerprint = new X509Certificate(readFileSync(listen.cert)).fingerprint256.replace(/:/g, '').toLowerCase()
    return addressText(host, listen.port, token, fingerprint)
  }

  private log(role: Role): string {
    const path = join(this.folder, 'logs', `${role}.log`)
    if (existsSync(path) && statSync(path).size > 10_000_000) renameSync(path, `${path}.1`)
    return path
  }

  private remember(): void {
    const pids: Pids = {}
    const note = (role: Role, pid: number | undefined) => {
      const started = pid === undefined ? null : processStart(pid)
      if (pid !== undefined && started !== null) pids[role] = { pid, started }
    }
    note('supervisor', process.pid)
    for (const [role, child] of this.children) note(role, child.pid)
    this.known = pids
    // Whole at every moment: a command that reads it meanwhile would else see nothing running.
    const path = pidPath(this.folder)
    withRoom(() => {
      writeFileSync(`${path}.part`, JSON.stringify(pids))
      renameSync(`${path}.part`, path)
    })
  }

  private launch(role: Role, command: string, args: readonly string[]): ChildProcess {
    const { signal } = this.ending
    signal.throwIfAborted()
    const log = openSync(this.log(role), 'a')
    // A group of its own: Ctrl-C reaches the supervisor alone, which ends the others in order. Where it is killed they are asked to end.
    const [file, ...words] = tiedTo(process.pid, [command, ...args], 'TERM')
    const child = spawn(file, words, { cwd: home, detached: true, stdio: ['ignore', log, log] })
    this.children.set(role, child)
    this.remember()
    child.on('error', (e) => withRoom(() => appendFileSync(this.log(role), `${e.message}\n`)))
    child.on('exit', () => {
      if (signal.aborted || this.children.get(role) !== child) return
      const now = Date.now()
      const ends = [...(this.restarts.get(role) ?? []), now].filter((t) => now - t < 60_000)
      this.restarts.set(role, ends)
      // A disk that is full, or a port that is taken, may be right again in a moment: the others stay up, and it is tried again, slower.
      const restless = ends.length > 12
      if (restless) say(`The ${role} process ends again and again; see ${this.log(role)}. It is started again every 15 s. Ctrl-C ends everything.`)
      setTimeout(
        () => {
          if (!signal.aborted) this.launch(role, command, args)
        },
        restless ? 15_000 : 200,
      )
    })
    return child
  }

  private async startDatabase(): Promise<void> {
    const data = join(this.folder, 'mariadb')
    const whole = join(this.folder, 'mariadb.installed')
    // For temporary tables and the socket, whose path may hold 107 characters at most. A database that starts clears away all that it
    // finds among temporary tables, those of its neighbours too.
    const [temporary, beside] = [ownTemporary(`tables-${this.number}`), ownTemporary(`db-${this.number}`)]
    const mariadbd = existsSync('/usr/sbin/mariadbd') ? '/usr/sbin/mariadbd' : 'mariadbd'
    if (!existsSync(whole)) {
      step('Setting up the database ...')
      rmSync(data, { recursive: true, force: true })
      await execa('mariadb-install-db', ['--no-defaults', `--datadir=${data}`, '--auth-root-authentication-method=normal', '--skip-test-db'], {
        stdio: ['ignore', 'ignore', 'pipe'],
        env: { TMPDIR: temporary },
        cancelSignal: this.ending.signal,
      })
      writeFileSync(whole, '')
    }
    const init = join(this.folder, 'init.sql')
    writeFileSync(init, databaseStatements(this.config), { mode: 0o600 })
    const args = databaseArgs({ data, temporary, init, port: this.config.database.port, socket: join(beside, 's'), pids: join(this.folder, 'mariadb.pid') })
    const child = this.launch('mariadb', mariadbd, args)
    await until(
      'MariaDB',
      () => answers(this.config.database.port),
      () => this.ending.signal.aborted || child.exitCode !== null,
      this.log('mariadb'),
    )
  }

  private async startRedis(): Promise<void> {
    const dir = join(this.folder, 'redis')
    mkdirSync(dir, { recursive: true })
    const conf = join(this.folder, 'redis.conf')
    writeFileSync(conf, queueSettings(this.config, dir), { mode: 0o600 })
    const child = this.launch('redis', 'redis-server', [conf])
    await until(
      'Redis',
      () => answers(this.config.redis.port),
      () => this.ending.signal.aborted || child.exitCode !== null,
      this.log('redis'),
    )
  }

  private async script(role: 'api' | 'worker'): Promise<ChildProcess> {
    const own = await serving(role, this.folder)
    const [command = own[0], ...args] = [...(this.options.through ?? []), ...own]
    return this.launch(role, command, args)
  }

  /** Starts database and queue only: for tests that bring their own API. */
  startServices(): Promise<Config> {
    return this.begin(() => this.bringUpServices())
  }

  private async bringUpServices(): Promise<Config> {
    await Instance.stop(this.folder)
    await sweepPassing()
    sweepTemporary()
    await this.prepare()
    this.remember()
    await Promise.all([this.startDatabase(), this.startRedis()])
    return this.config
  }

  async startWorker(): Promise<ChildProcess> {
    return this.script('worker')
  }

  /** Whether the tables have gone every step there is, and no other: asked by the client of the database, which takes a fraction of what a process of ours does. */
  private async isUpToDate(): Promise<boolean> {
    const { port, user, password } = this.config.database
    const as = ['--no-defaults', '--host=127.0.0.1', `--port=${port}`, `--user=${user}`, '--batch', '--skip-column-names', 'naranja']
    const gone = await execa('mariadb', [...as, '--execute=SELECT name FROM migrations ORDER BY id'], { env: { MYSQL_PWD: password }, reject: false })
    return gone.exitCode === 0 && gone.stdout === steps.map((s) => s.name).join('\n')
  }

  /** Brings the tables up to date, before any process uses them. */
  private async upgrade(): Promise<void> {
    if (await this.isUpToDate()) return
    const [file, ...words] = tiedTo(process.pid, await serving('upgrade', this.folder))
    const end = await execa(file, words, { cwd: home, stdio: ['ignore', 'ignore', 'pipe'], reject: false, cancelSignal: this.ending.signal })
    if (end.exitCode !== 0) throw new Error(end.stderr || `The tables of ${this.folder} could not be brought up to date.`)
  }

  /** Starts everything; resolves when the API answers. */
  start(): Promise<void> {
    return this.begin(() => this.bringUp())
  }

  private async bringUp(): Promise<void> {
    await this.bringUpServices()
    await this.upgrade()
    await this.startProcesses()
  }

  private async startProcesses(): Promise<void> {
    const api = await this.script('api')
    const healthy = () =>
      new Client(this.address).ask('health').then(
        () => true,
        () => false,
      )
    await until('The API', healthy, () => this.ending.signal.aborted || api.exitCode !== null, this.log('api'))
    await this.script('worker')
  }

  /** API and worker begin anew, as they are built by now and with nothing in their memory; database and queue stay. Resolves when the API answers. */
  async renew(): Promise<void> {
    for (const role of ['worker', 'api'] as const) {
      // Not to be started again as it was.
      this.children.delete(role)
      await end(this.known[role], 6000)
    }
    await this.startProcesses()
  }

  private begin<T>(start: () => Promise<T>): Promise<T> {
    this.ending = new AbortController()
    const starting = start()
    this.starting = starting
    return starting
  }

  /** The process that plays a role, for tests that end it. */
  pid(role: Role): number | undefined {
    return this.children.get(role)?.pid
  }

  async stop(): Promise<void> {
    if (this.ending.signal.aborted) return
    this.ending.abort(new Error('It was ended while it started.'))
    await this.starting?.catch(() => undefined)
    for (const role of ['worker', 'api', 'redis', 'mariadb'] as const) await end(this.known[role], role === 'mariadb' ? 20_000 : 6000)
    if (readPids(this.folder).supervisor?.pid === process.pid) rmSync(pidPath(this.folder), { force: true })
  }
}
