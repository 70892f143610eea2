import { defineConfig } from 'vitest/config'

/** Three kinds of tests: sums on their own; the API on a real database and queue; a browser on real media. */
export default defineConfig({
  test: {
    fileParallelism: true,
    projects: [
      { test: { name: 'unit', include: ['packages/*/src/**/*.test.ts'], environment: 'node', sequence: { groupOrder: 0 } } },
      {
        test: {
          name: 'api',
          include: ['e2e/api/**/*.test.ts', 'e2e/job/**/*.test.ts'],
          // Each file has instances of its own and waits for what it needs, so two go side by side.
          maxWorkers: 2,
          sequence: { groupOrder: 1 },
          testTimeout: 240_000,
          hookTimeout: 240_000,
          pool: 'forks',
        },
      },
      {
        test: {
          name: 'browser',
          include: ['e2e/browser/**/*.test.ts'],
          fileParallelism: false,
          sequence: { groupOrder: 2 },
          testTimeout: 600_000,
          hookTimeout: 600_000,
          pool: 'forks',
        },
      },
    ],
  },
})
