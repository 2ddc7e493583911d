<script setup lang="ts">
import type { EChartsOption } from 'echarts'
import { BarChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TitleComponent, TooltipComponent } from 'echarts/components'
import { init, use } from 'echarts/core'
import { SVGRenderer, CanvasRenderer } from 'echarts/renderers'
import { computed, ref } from 'vue'
import VChart from 'vue-echarts'
import { type RouteLocationRaw, useRouter } from 'vue-router'
import { titled } from '@/charts/titled'
import type { Tokens } from '@/theme'

// A picture under its sentence, with what one can take away. The arrow keys walk along what it shows, and
// each thing opens the orders behind it. It is loaded when a page needs it.
const { sentence, below, option, rows, points, tokens } = defineProps<{
  sentence: string
  /** What a picture that is taken away says below: its reconciliation. */
  below: readonly string[]
  option: EChartsOption
  /** What the CSV file holds: a header, then the rows. */
  rows: readonly (readonly (string | number)[])[]
  /** What the first series shows, one after the other, in words, and where each leads. */
  points: readonly { words: string; to: RouteLocationRaw }[]
  tokens: Tokens
}>()

use([
  BarChart,
  GridComponent,
  MarkLineComponent,
  TitleComponent,
  TooltipComponent,
  SVGRenderer,
  CanvasRenderer,
])

const router = useRouter()
const chart = ref<InstanceType<typeof VChart>>()
const at = ref(-1)
const words = computed(() => points[at.value]?.words ?? '')

function walk(event: KeyboardEvent) {
  const last = points.length - 1
  const next: Record<string, number> = {
    ArrowLeft: Math.max(0, at.value - 1),
    ArrowRight: Math.min(last, at.value + 1),
    Home: 0,
    End: last,
  }
  const to = next[event.key]
  if (to === undefined) {
    if (event.key === 'Enter') open(at.value)
    return
  }
  event.preventDefault()
  at.value = to
  chart.value?.dispatchAction({ type: 'downplay', seriesIndex: 0 })
  chart.value?.dispatchAction({ type: 'highlight', seriesIndex: 0, dataIndex: to })
  chart.value?.dispatchAction({ type: 'showTip', seriesIndex: 0, dataIndex: to })
}

function open(index: number) {
  const to = points[index]?.to
  if (to) router.push(to)
}

/** The size of a picture to take away, in pixels. */
const paper = { width: 1200, height: 640 }

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

function saveSVG() {
  const drawn = init(null, null, { renderer: 'svg', ssr: true, ...paper })
  drawn.setOption(titled(option, sentence, below, paper.width, tokens))
  save(new Blob([drawn.renderToSVGString()], { type: 'image/svg+xml' }), 'svg')
  drawn.dispose()
}

async function savePNG() {
  const canvas = document.createElement('canvas')
  const drawn = init(canvas, null, { renderer: 'canvas', devicePixelRatio: 2, ...paper })
  drawn.setOption(titled(option, sentence, below, paper.width, tokens))
  const content = await new Promise<Blob | null>((resolve) =>
    drawn.renderToCanvas({ pixelRatio: 2 }).toBlob(resolve, 'image/png'),
  )
  drawn.dispose()
  if (content) save(content, 'png')
}

/** The sentence alone in the first record, then the table, as RFC 4180 has it. */
function saveCSV() {
  const cell = (c: string | number) =>
    /[",\r\n]/.test(String(c)) ? `"${String(c).replaceAll('"', '""')}"` : String(c)
  const blank = new Array<string>((rows[0]?.length ?? 1) - 1).fill('')
  const records = [[sentence, ...blank], ...rows, ...below.map((line) => [line, ...blank])]
  const text = records.map((r) => r.map(cell).join(',')).join('\r\n')
  save(new Blob([text, '\r\n'], { type: 'text/csv' }), 'csv')
}
</script>

<template>
  <figure class="panel frame">
    <div
      class="walk"
      role="slider"
      tabindex="0"
      :aria-label="sentence"
      aria-valuemin="0"
      :aria-valuemax="points.length - 1"
      :aria-valuenow="Math.max(0, at)"
      :aria-valuetext="words || 'The arrow keys walk along, Enter opens the orders'"
      data-test="walk"
      @keydown="walk"
    >
      <v-chart
        ref="chart"
        class="chart"
        :option="option"
        :init-options="{ renderer: 'svg' }"
        autoresize
        aria-hidden="true"
        data-test="chart"
        @click="open($event.dataIndex)"
      />
    </div>
    <figcaption>
      <span class="muted words" data-test="point">{{ words }}</span>
      <span class="muted">Take away</span>
      <button type="button" data-test="take-png" @click="savePNG">PNG</button>
      <button type="button" data-test="take-svg" @click="saveSVG">SVG</button>
      <button type="button" data-test="take-csv" @click="saveCSV">CSV</button>
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
  flex-wrap: wrap;
  font-size: 0.82rem;
}

.words {
  flex: 1;
}

button {
  color: rgb(var(--v-theme-primary));
  text-decoration: underline;
}
</style>
