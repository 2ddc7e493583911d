import { fileURLToPath, URL } from 'node:url'
import vue from '@vitejs/plugin-vue'
import subsetFont from 'subset-font'
import { defineConfig, type Plugin } from 'vite'
import vuetify from 'vite-plugin-vuetify'

/** The characters for which the style sheet of the font asks for its Latin file. */
const latin = [
  [0x20, 0xff],
  [0x131, 0x131],
  [0x152, 0x153],
  [0x2bb, 0x2bc],
  [0x2c6, 0x2c6],
  [0x2da, 0x2dc],
  [0x2000, 0x206f],
  [0x20ac, 0x20ac],
  [0x2122, 0x2122],
  [0x2191, 0x2193],
  [0x2212, 0x2215],
]

/** Leaves of the font what the pages show: its Latin characters, from regular to bold. */
function slimFont(): Plugin {
  const text = latin
    .flatMap(([from, to]) => Array.from({ length: to - from + 1 }, (_, i) => String.fromCodePoint(from + i)))
    .join('')
  return {
    name: 'slim-font',
    async generateBundle(_options, bundle) {
      for (const asset of Object.values(bundle)) {
        if (asset.type !== 'asset' || !/inter-latin-wght-normal.*\.woff2$/.test(asset.fileName)) continue
        const whole = Buffer.from(asset.source as Uint8Array)
        asset.source = await subsetFont(whole, text, {
          targetFormat: 'woff2',
          variationAxes: { wght: { min: 400, max: 700 } },
        })
      }
    },
  }
}

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: { labs: true } }), slimFont()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // Nothing is inlined: the content security policy allows no script but our files.
  build: { outDir: 'dist/site', emptyOutDir: true, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
})
