/** A process of its own for a test that traces it: everything that is done with a file that somebody takes in, for each file of a folder. */
import { readdirSync } from 'node:fs'
import { join } from 'node:path'
import { emptyTechnical, probe } from './probe/probe.ts'
import { clipInput } from './input/input.ts'
import { contentId } from './bytes/identity.ts'
import { output } from './ffmpeg/run.ts'
import { stills } from './frames/frames.ts'
import { fileInput } from './ffmpeg/forms.ts'

const [folder = ''] = process.argv.slice(2)
const rate = { num: 25, den: 1 }
const said: Record<string, string | null> = {}
for (const name of readdirSync(folder)) {
  const path = Buffer.from(join(folder, name))
  const sequence = /^seq0001\./.test(name) ? { base: 'seq', digits: 4, ext: name.split('.')[1] ?? '', first: 1, last: 1, missing: [] } : null
  const t = await probe(path, { projectRate: rate, sequence })
  said[name] = t.fault ?? null
  // Even where nobody would: as if it had been exchanged after it was taken in.
  const input = clipInput(path, { ...emptyTechnical, ...t, sequence })
  await contentId(path, 10).catch(() => undefined)
  await stills(input, 0, 1, { width: 64 }, () => undefined).catch(() => undefined)
  await output('ffmpeg', ['-nostdin', '-v', 'error', ...fileInput(path), '-f', 'null', '-']).catch(() => undefined)
}
process.stdout.write(JSON.stringify(said))
