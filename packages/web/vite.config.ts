import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'
import { guidePages } from './guidePages.ts'

export default defineConfig({
  root: import.meta.dirname,
  plugins: [react(), tailwindcss(), guidePages()],
  build: {
    outDir: 'dist',
    emptyOutDir: true,
    // Says which part needs which: what a screen waits for is measured by it (e2e/browser/saying.test.ts).
    manifest: true,
    chunkSizeWarningLimit: 2000,
    rolldownOptions: {
      output: {
        // Schemas stand in one file, in which they are told first how to be (quiet.ts): parts that are loaded later share them.
        codeSplitting: { groups: [{ name: 'schemas', test: /node_modules\/zod\/|packages\/(contract|core)\/|web\/src\/quiet\.ts/ }] },
      },
    },
  },
})
