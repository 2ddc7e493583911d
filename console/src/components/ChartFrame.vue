<script setup lang="ts">
import type { EChartsOption } from 'echarts'
import { computed, defineAsyncComponent, useTemplateRef, ref } from 'vue'
import type { VChart as Chart } from '@/charts/engine'
import { useRouter } from 'vue-router'
import type { Point } from '@/charts/frame'
import { titled } from '@/charts/titled'
import type { Tokens } from '@/theme'

// A picture under its sentence, with what one can take away. The arrow keys walk along what it shows, and
// each thing opens the orders behind it. What draws it is loaded when a page needs it.
const {
  sentence,
  below,
  option,
  rows = [],
  points,
  tokens,
  note = '',
  height = 300,
} = defineProps<{
  sentence: string
  /** What a picture that is taken away says below: its reconciliation. */
  below: readonly string[]
  option: EChartsOption
  /** What the CSV file holds: a header, then the rows. */
  rows?: readonly (readonly (string | number)[])[]
  /** What the picture shows, one after the other, in words, and where each leads. */
  points: readonly Point[]
  tokens: Tokens
  /** How to read it. */
  note?: string
  /** In pixels. */
  height?: number
}>()

const emit = defineEmits<{
  /** A map was moved or zoomed, by a factor; its middle is now at these degrees. */
  roam: [factor: number, centre: readonly [longitude: number, latitude: number]]
  /** A point that leads nowhere was opened. */
  point: [index: number]
}>()

const VChart = defineAsyncComponent(() => import('@/charts/engine').then((engine) => engine.VChart))

const router = useRouter()
const chart = useTemplateRef<InstanceType<typeof Chart>>('chart')
const at = ref(-1)
const words = computed(() => points[at.value]?.words ?? note)
/** What a picture that is taken away says below. */
const said = computed(() => (note ? [note, ...below] : below))

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
  const shown = { seriesIndex: points[to]?.series ?? 0, dataIndex: points[to]?.data ?? to }
  chart.value?.dispatchAction({ type: 'downplay' })
  chart.value?.dispatchAction({ type: 'highlight', ...shown })
  chart.value?.dispatchAction({ type: 'showTip', ...shown })
}

/** The point of what was clicked; series that have none of their own stand for the first. */
function clicked(series: number, data: number) {
  const own = points.findIndex((p, i) => (p.series ?? 0) === series && (p.data ?? i) === data)
  open(own >= 0 ? own : points.findIndex((p, i) => (p.series ?? 0) === 0 && (p.data ?? i) === data))
}

function open(index: number) {
  const to = points[index]?.to
  if (to) router.push(to)
  else if (index >= 0) emit('point', index)
}

function roamed(event: object) {
  const of = chart.value
  if (!of?.$el || !option.geo) return
  const { width, height: high } = (of.$el as HTMLElement).getBoundingClientRect()
  const middle = (option.geo as { layoutCenter?: number[] }).layoutCenter ?? [width / 2, high / 2]
  const centre = of.convertFromPixel('geo', middle) as number[] | null
  if (centre) emit('roam', (event as { zoom?: number }).zoom ?? 1, [centre[0] ?? 0, centre[1] ?? 0])
}

/** The size of a picture to take away, in pixels. */
const paper = computed(() => ({ width: 1200, height: 340 + height }))

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

async function saveSVG() {
  const { init } = await import('@/charts/paper')
  const drawn = init(null, null, { renderer: 'svg', ssr: true, ...paper.value })
  drawn.setOption(titled(option, sentence, said.value, paper.value.width, tokens))
  save(new Blob([drawn.renderToSVGString()], { type: 'image/svg+xml' }), 'svg')
  drawn.dispose()
}

async function savePNG() {
  const { init } = await import('@/charts/paper')
  const canvas = document.createElement('canvas')
  const drawn = init(canvas, null, { renderer: 'canvas', devicePixelRatio: 2, ...paper.value })
  drawn.setOption(titled(option, sentence, said.value, paper.value.width, tokens))
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
      <div :style="{ height: `${height}px` }">
        <v-chart
          ref="chart"
          class="chart"
          :option="option"
          :init-options="{ renderer: 'svg' }"
          autoresize
          aria-hidden="true"
          data-test="chart"
          @click="clicked($event.seriesIndex ?? 0, $event.dataIndex)"
          @georoam="roamed"
        />
      </div>
    </div>
    <figcaption>
      <span class="muted words" data-test="point">{{ words }}</span>
      <span class="muted on-screen">Export the picture</span>
      <v-btn size="small" data-test="export-png" @click="savePNG">PNG</v-btn>
      <v-btn size="small" data-test="export-svg" @click="saveSVG">SVG</v-btn>
      <v-btn v-if="rows.length > 0" size="small" data-test="export-picture-csv" @click="saveCSV">CSV</v-btn>
    </figcaption>
  </figure>
</template>

<style scoped>
.frame {
  padding: 12px;
  margin: 0 0 20px;
}

figcaption {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
  align-items: center;
  font-size: 0.82rem;
}

.words {
  flex: 1;
}
</style>
