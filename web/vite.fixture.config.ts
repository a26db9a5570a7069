import { svelte } from '@sveltejs/vite-plugin-svelte'
import { defineConfig } from 'vite'

// The page of the tests: built beside the product, never into it.
export default defineConfig({
  root: 'fixture',
  plugins: [svelte()],
  build: { target: 'es2022', outDir: '../fixture-dist', emptyOutDir: true },
})
