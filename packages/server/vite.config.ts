/** The processes of an instance as a few plain scripts: they start in half the time, and hold no compiler. What npm brings stays where it is. */
export default {
  root: import.meta.dirname,
  logLevel: 'error',
  publicDir: false,
  build: {
    ssr: true,
    target: 'node20',
    sourcemap: true,
    minify: false,
    rolldownOptions: {
      input: Object.fromEntries(['api', 'worker', 'upgrade', 'cuts/child'].map((name) => [name.replace(/.*\//, ''), `${import.meta.dirname}/src/${name}.ts`])),
      // Side by side: one of them starts another by its name.
      output: { chunkFileNames: '[name]-[hash].js', sourcemapExcludeSources: true },
    },
  },
}
