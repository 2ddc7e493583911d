<script setup lang="ts">
import type { EChartsOption } from 'echarts'
import { BarChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer, CanvasRenderer } from 'echarts/renderers'
import VChart from 'vue-echarts'

// A picture under its sentence, with what one can take away. It is loaded when a page needs it.
const { sentence, option, rows } = defineProps<{
  sentence: string
  option: EChartsOption
  /** What the CSV file holds: a header, then the rows. */
  rows: readonly (readonly (string | number)[])[]
}>()

use([BarChart, GridComponent, MarkLineComponent, TooltipComponent, SVGRenderer, CanvasRenderer])

function save(content: Blob, ending: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = `${sentence
    .replace(/[^a-z0-9]+/gi, '-')
    .replace(/^-|-$/g, '')
    .toLowerCase()}.${ending}`
  link.click()
  URL.revokeObjectURL(link.href)
}

/** The picture at a size for paper, with its sentence as the title. */
function drawn(renderer: 'svg' | 'canvas') {
  const chart = init(null, null, { renderer, ssr: renderer === 'svg', width: 1200, height: 600 })
  chart.setOption(option)
  return chart
}

function saveSVG() {
  const chart = drawn('svg')
  const text = chart.renderToSVGString().replace('>', `><title>${sentence.replace(/[<&>]/g, '')}</title>`)
  save(new Blob([text], { type: 'image/svg+xml' }), 'svg')
  chart.dispose()
}

async function savePNG() {
  const chart = init(document.createElement('canvas'), null, {
    renderer: 'canvas',
    width: 1200,
    height: 600,
    devicePixelRatio: 2,
  })
  chart.setOption(option)
  save(await (await fetch(chart.getDataURL({ type: 'png', pixelRatio: 2 }))).blob(), 'png')
  chart.dispose()
}

function saveCSV() {
  const cell = (c: string | number) =>
    /[",\n]/.test(String(c)) ? `"${String(c).replaceAll('"', '""')}"` : String(c)
  const width = rows[0]?.length ?? 1
  const title = [sentence, ...new Array<string>(width - 1).fill('')]
  save(
    new Blob([[title, ...rows].map((row) => row.map(cell).join(',')).join('\r\n') + '\r\n'], {
      type: 'text/csv',
    }),
    'csv',
  )
}
</script>

<template>
  <figure class="panel frame">
    <v-chart
      class="chart"
      :option="option"
      :init-options="{ renderer: 'svg' }"
      autoresize
      role="img"
      :aria-label="sentence"
      data-test="chart"
    />
    <figcaption>
      <span class="muted">Take away</span>
      <button type="button" @click="savePNG">PNG</button>
      <button type="button" @click="saveSVG">SVG</button>
      <button type="button" @click="saveCSV">CSV</button>
    </figcaption>
  </figure>
</template>

<style scoped>
.frame {
  padding: 12px;
  margin: 0 0 20px;
}

.chart {
  height: 300px;
}

figcaption {
  display: flex;
  gap: 14px;
  justify-content: flex-end;
  font-size: 0.82rem;
}

button {
  color: rgb(var(--v-theme-primary));
  text-decoration: underline;
}
</style>
