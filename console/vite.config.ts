import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { fileURLToPath, URL } from 'node:url'
import { promisify } from 'node:util'
import { brotliCompress, constants } from 'node:zlib'
import vue from '@vitejs/plugin-vue'
import { cityMapping } from 'city-timezones'
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

/** The list of towns of a package without what nobody looks at here: a sixth of it. */
function cities(): Plugin {
  const id = 'virtual:cities'
  return {
    name: 'cities',
    resolveId: (source) => (source === id ? `\0${id}` : undefined),
    load(source) {
      if (source !== `\0${id}`) return undefined
      const slim = cityMapping.map((c) => [
        c.city,
        c.province,
        c.country,
        c.iso2,
        c.iso3,
        Number(c.lat.toFixed(2)),
        Number(c.lng.toFixed(2)),
      ])
      return `export default JSON.parse(${JSON.stringify(JSON.stringify(slim))})`
    },
  }
}

/** Writes beside each script and style sheet what it is in Brotli, at its smallest, which takes too long while a browser waits. */
function smallest(): Plugin {
  const compress = promisify(brotliCompress)
  const params = { [constants.BROTLI_PARAM_QUALITY]: constants.BROTLI_MAX_QUALITY }
  return {
    name: 'smallest',
    async writeBundle({ dir }, bundle) {
      const files = Object.values(bundle).filter((file) => /\.(js|css)$/.test(file.fileName))
      await Promise.all(
        files.map(async (file) => {
          const text = file.type === 'chunk' ? file.code : file.source
          await writeFile(join(dir ?? '', `${file.fileName}.br`), await compress(text, { params }))
        }),
      )
    },
  }
}

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: { labs: true } }), cities(), slimFont(), smallest()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  // Nothing is inlined: the content security policy allows no script but our files.
  build: { outDir: 'dist/site', emptyOutDir: true, assetsInlineLimit: 0, modulePreload: { polyfill: false } },
})
