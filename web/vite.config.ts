import tailwindcss from '@tailwindcss/vite'
import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { assetsInlineLimit: 0, target: 'es2022' },
  test: {
    environment: 'happy-dom',
    unstubGlobals: true,
    // Tests of components put doubles in place of modules: each file has modules of its own.
    projects: [
      { extends: true, test: { name: 'components', include: ['src/**/*.test.tsx'] } },
      { extends: true, test: { name: 'rest', include: ['src/**/*.test.ts'], isolate: false } },
    ],
  },
})
