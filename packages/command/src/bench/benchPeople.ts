/** How quick pictures and lists come while many people click at once. */
import { addressOf, routes } from '@naranja/contract'
import { type Figure, timed } from './benchTools.ts'
import { Client } from '../client/index.ts'
import { Instance } from '../instance/index.ts'
import { step } from '../base/index.ts'

const people = 20
/** Milliseconds for which they click. */
const lasting = 30_000

/** The value below which 95 of 100 lie. */
const at95 = (list: readonly number[]): number => [...list].sort((a, b) => a - b)[Math.floor(list.length * 0.95)] ?? 0

/**
 * Twenty people at once, each in a browser of their own: every one clicks once a second: turns pages of a list of 20,000 clips, looks at pictures that were looked at
 * before, and at others, which have to be made, plays, and reads scopes. Seconds, at the 95th of a hundred.
 */
export async function manyPeople(instance: Instance, looked: string, listed: string): Promise<{ stills: Figure; pages: Figure }> {
  const client = new Client(instance.address, instance.config.key)
  const clips = (await client.ask('clips', { projectId: looked, limit: 100 })).rows.filter((c) => c.width > 0 && c.frames > 20)
  const picture = (n: number, frame: number) => addressOf(routes.clipStill, { clipId: clips[n % clips.length]?.id ?? '', frame, width: 960 })
  // Those that were looked at before.
  for (let n = 0; n < clips.length; n++) await (await client.fetch(picture(n, 3))).arrayBuffer()
  const [stills, pages]: [number[], number[]] = [[], []]
  const until = Date.now() + lasting
  const one = async (who: number) => {
    const me = await Client.asBrowser(await Instance.addressOf(instance.config))
    for (let n = who; Date.now() < until; n++) {
      stills.push(await timed(async () => (await me.fetch(picture(n * 7, 3))).arrayBuffer()))
      pages.push(await timed(() => me.ask('clips', { projectId: listed, limit: 100, sort: n % 2 ? 'name' : 'start' })))
      // What they do besides, and do not wait for: another frame, scopes, and a piece.
      const clip = clips[(n * 5 + who) % clips.length]
      const other = me.fetch(picture(n * 5 + who, 20 + ((n * 13) % Math.max(1, (clip?.frames ?? 1) - 20)))).then((r) => r.arrayBuffer())
      const scopes = n % 3 === 0 ? me.ask('scopes', { clipId: clip?.id, frame: n % 20 }) : null
      const plays =
        n % 4 === 0
          ? me
              .ask('clipPlaylist', { clipId: clip?.id })
              .then(async (p) => (await me.fetch(p.pieces[n % Math.max(1, p.pieces.length)]?.url ?? '/')).arrayBuffer())
          : null
      for (const p of [other, scopes, plays]) p?.catch(() => undefined)
      await new Promise((r) => setTimeout(r, 1000))
    }
  }
  step(`${people} people click for ${lasting / 1000} s`)
  await Promise.all(Array.from({ length: people }, (_, i) => one(i)))
  const told = `while ${people} people click once a second, at the 95th of 100, in s`
  return {
    stills: { name: `a picture that was looked at before ${told}`, value: at95(stills) / 1000, goal: 0.3, unit: 's' },
    pages: { name: `a page of a list of 20,000 clips ${told}`, value: at95(pages) / 1000, goal: 1, unit: 's' },
  }
}
