import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: { labs: true } })],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // Nothing is inlined: the content security policy allows no script but our files.
  build: { outDir: 'dist/site', emptyOutDir: true, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
})
