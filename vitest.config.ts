import { availableParallelism } from 'node:os'
import { defineConfig } from 'vitest/config'
import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** The longest files begin first: one that begins last keeps every core but its own idle. */
const longest = [
  ...['colours', 'combinations', 'make'].map((n) => `media/src/copies/${n}.test.ts`),
  ...['e2e/job/long.test.ts', 'e2e/job/jobs.test.ts', 'e2e/api/storm.test.ts', 'e2e/api/queue.test.ts'],
]
class LongestFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const place = (f: TestSpecification) => {
      const i = longest.findIndex((l) => f.moduleId.endsWith(l))
      return i < 0 ? longest.length : i
    }
    return (await super.sort(files)).sort((a, b) => place(a) - place(b))
  }
}

/** Those that wait for processes of their own; how long that takes is no matter of a test. */
const patient = { testTimeout: 600_000, hookTimeout: 600_000, pool: 'forks' as const }

/** Browser tests: the whole job, which plays and measures, and then those of single steps. */
const browser = (name: string, groupOrder: number, include: string[], maxWorkers: number) => ({
  test: { ...patient, name, include, maxWorkers, sequence: { groupOrder } },
})

/** Those that mount file systems of their own, as root may, or anybody in a user namespace (user_namespaces(7)), in which `./naranja test` runs them. */
const mounting = ['e2e/api/{backups,full,hostile,join,queue,storm,volumes}.test.ts', 'packages/media/src/backup/room.test.ts']
/** What takes minutes: files that FFmpeg makes and reads, and readers that are given thousands of bent files. */
const long = [
  'packages/media/src/{backup,copies,ffmpeg,frames,input,probe,render}/**/*.test.ts',
  'packages/demo/src/dng.test.ts',
  'packages/core/src/testing/fuzz.test.ts',
]
/** Of their own accord they would leave a core idle, of two. */
const alone = {
  environment: 'node',
  maxWorkers: Math.max(2, availableParallelism() - 1),
  sequence: { groupOrder: 0 },
  testTimeout: 120_000,
  hookTimeout: 120_000,
}
/** Each file has instances of its own and waits for what it needs, so two go side by side. */
const api = { ...patient, maxWorkers: 2, sequence: { groupOrder: 1 } }

/** Kinds of tests: sums on their own; what takes long; the API on a real database and queue; a browser on real media. */
export default defineConfig({
  test: {
    fileParallelism: true,
    sequence: { sequencer: LongestFirst },
    projects: [
      { test: { ...alone, name: 'unit', include: ['packages/*/src/**/*.test.ts'], exclude: [...mounting, ...long] } },
      { test: { ...alone, name: 'long', include: long, exclude: mounting } },
      { test: { ...api, name: 'api', include: ['e2e/api/**/*.test.ts', 'e2e/job/**/*.test.ts'], exclude: mounting } },
      { test: { ...api, name: 'mounts', include: mounting } },
      browser('browser', 2, ['e2e/browser/whole-job.test.ts'], 1),
      // One at a time: two browsers, two applications and their encoders wait for one another on two cores.
      browser('browser-steps', 3, ['e2e/browser/!(whole-job).test.ts'], 1),
    ],
  },
})
