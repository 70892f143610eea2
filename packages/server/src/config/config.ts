/** One file says how an instance runs; the start command writes it, every process reads it. */
import { readFileSync } from 'node:fs'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { z } from 'zod'

export const Config = z.object({
  instance: z.string(),
  /** Folder of the instance: database, queue, caches, logs. */
  folder: z.string(),
  database: z.object({ port: z.int(), user: z.string().default('naranja'), password: z.string() }),
  redis: z.object({ port: z.int(), user: z.string().default('default'), password: z.string() }),
  /** Users of both for workers on other machines, who may do what a worker does. */
  workers: z.object({ database: z.object({ user: z.string(), password: z.string() }), redis: z.object({ user: z.string(), password: z.string() }) }),
  api: z.object({ port: z.int() }),
  /** Folders that are volumes themselves. */
  roots: z.array(z.object({ path: z.string(), label: z.string() })),
  /** Folders whose folders are volumes. */
  parents: z.array(z.string()),
  /** The same, but only what is really mounted there. */
  mounts: z.array(z.string()).default([]),
  /** Opens the way to folders beyond the roots: for the start command on this machine only. */
  key: z.string(),
  /** Name of this machine: each sees the same volume under a path of its own. */
  machine: z.string().default(hostname()),
  /** The door for workers on other machines; closed where it is null. */
  listen: z.object({ host: z.string(), port: z.int(), cert: z.string(), key: z.string() }).nullable().default(null),
  /** This is a worker of an instance on another machine: it takes what it can see all of. */
  joined: z.boolean().default(false),
  /** Where this machine sees volumes that it cannot know by itself, by their ids. */
  mapped: z.record(z.string(), z.string()).default({}),
  /** The card reader that ships with the application: its cards, and the folder in which those that are in appear. */
  reader: z.object({ drawer: z.string(), slots: z.string() }).nullable().default(null),
  /** Tasks a worker runs at once. */
  concurrency: z.int().min(1),
  /** Font files for placeholders and burn-ins: for text, and with digits of one width. */
  fonts: z.object({ text: z.string(), mono: z.string() }),
  /** The built web application. */
  web: z.string(),
  user: z.string(),
})
export type Config = z.infer<typeof Config>

export const configPath = (folder: string): string => join(folder, 'config.json')

/** The name of the script that the built page loads first; it changes with every build. Null where none is built. */
export function pageScript(web: string): string | null {
  try {
    return /<script type="module"[^>]* src="([^"]+)"/.exec(readFileSync(join(web, 'index.html'), 'utf8'))?.[1] ?? null
  } catch {
    return null
  }
}

/** Reads the config of an instance. Throws with the file's name if it is missing or wrong. */
export function readConfig(folder: string): Config {
  const path = configPath(folder)
  try {
    return Config.parse(JSON.parse(readFileSync(path, 'utf8')))
  } catch (e) {
    throw new Error(`The configuration ${path} cannot be used: ${e instanceof Error ? e.message : e}`)
  }
}
