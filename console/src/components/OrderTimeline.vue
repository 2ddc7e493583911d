<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import type { Document } from '@/api/document'
import { type Bar, stretchOf } from '@/charts/timeline'
import { length, withWeekday } from '@/format'
import { useTokens } from '@/composables/useTokens'

// The orders that were open, each a bar over its days: only the bars that are looked at are in the page, drawn on one
// canvas, under buttons that say what a bar is. Days that are not worked are shaded by each order's own calendar; the period
// stands between two lines; running orders end in an open bar.
const { document: answer, barAt } = defineProps<{
  document: Document
  barAt: (i: number) => Bar | undefined
}>()
const emit = defineEmits<{ need: [first: number, last: number]; open: [number: string] }>()

const stretch = computed(() => stretchOf(answer))

const barHeight = 24
const beyond = 4
/** Orders that are fetched before one scrolls there. */
const ahead = 100
const frame = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const top = ref(0)
const height = ref(480)
const width = ref(900)

const first = computed(() => Math.max(0, Math.floor(top.value / barHeight) - beyond))
const last = computed(() =>
  Math.min(stretch.value.all - 1, Math.ceil((top.value + height.value) / barHeight) + beyond),
)
const drawn = computed(() =>
  Array.from({ length: Math.max(0, last.value - first.value + 1) }, (_, i) => ({
    at: first.value + i,
    bar: barAt(first.value + i),
  })),
)
/** Elements are used again for other bars. */
const slots = computed(() => Math.ceil(drawn.value.length / 24) * 24)
watch([first, last, () => answer], () =>
  emit('need', Math.max(0, first.value - ahead), Math.min(stretch.value.all - 1, last.value + ahead)),
)

function scrolled() {
  if (!frame.value) return
  top.value = frame.value.scrollTop
  height.value = frame.value.clientHeight
  width.value = frame.value.clientWidth
}
const watcher = new ResizeObserver(scrolled)
onMounted(() => {
  if (frame.value) watcher.observe(frame.value)
})
onUnmounted(() => {
  watcher.disconnect()
  cancelAnimationFrame(asked)
})
watch(
  () => JSON.stringify(answer.sentence),
  () => frame.value?.scrollTo({ top: 0 }),
)

const dayNumber = (day: string) => Date.parse(`${day}T00:00:00Z`) / 86_400_000
const from = computed(() => dayNumber(stretch.value.shown.from))
const days = computed(() => dayNumber(stretch.value.shown.to) - from.value + 1)
/** The names stand left of the days, and the reasons right of them. */
const names = 104
const reasons = computed(() => (width.value > 760 ? 220 : 0))
const perDay = computed(() => Math.max(1, width.value - names - reasons.value) / days.value)
const x = (day: number) => names + (day - from.value) * perDay.value

const tokens = useTokens()

/** Draws once before the next frame, however often it is asked to. */
let asked = 0
watch(
  [drawn, top, height, width, perDay, tokens, () => answer],
  () => {
    cancelAnimationFrame(asked)
    asked = requestAnimationFrame(draw)
  },
  { immediate: true },
)

function draw() {
  const context = canvas.value?.getContext('2d')
  if (!context || !canvas.value || !frame.value) return
  const ratio = window.devicePixelRatio
  const [wide, high] = [Math.round(width.value * ratio), Math.round(height.value * ratio)]
  if (canvas.value.width !== wide || canvas.value.height !== high) {
    canvas.value.width = wide
    canvas.value.height = high
  }
  context.setTransform(ratio, 0, 0, ratio, 0, 0)
  context.clearRect(0, 0, width.value, height.value)
  context.translate(0, -top.value)
  context.font = `12.8px ${getComputedStyle(frame.value).fontFamily}`
  context.textBaseline = 'middle'
  for (const { at, bar } of drawn.value) {
    if (bar) drawBar(context, bar, at * barHeight)
  }
  context.strokeStyle = tokens.value.ink
  context.setLineDash([4, 3])
  for (const day of [dayNumber(stretch.value.period.from), dayNumber(stretch.value.period.to) + 1]) {
    const edge = Math.round(x(day)) + 0.5
    context.beginPath()
    context.moveTo(edge, top.value)
    context.lineTo(edge, top.value + height.value)
    context.stroke()
  }
  context.setLineDash([])
}

function drawBar(context: CanvasRenderingContext2D, bar: Bar, y: number) {
  const t = tokens.value
  const middle = y + barHeight / 2
  const write = (text: string, left: number, colour: string) => {
    context.fillStyle = colour
    context.fillText(text, left, middle)
  }
  if (perDay.value >= 2) {
    context.globalAlpha = 0.55
    context.fillStyle = t.line
    for (const day of bar.off) context.fillRect(x(dayNumber(day)), y, perDay.value, barHeight)
    context.globalAlpha = 1
  }
  write(bar.number, 12, t.ink)
  if (reasons.value) write(bar.reason, width.value - reasons.value + 12, t.muted)
  const start = Math.max(dayNumber(bar.start), from.value)
  const end = Math.min(dayNumber(bar.close ?? answer.data_date), from.value + days.value - 1)
  const [left, wide] = [x(start), Math.max(3, (end - start + 1) * perDay.value)]
  if (!bar.close) {
    const fading = context.createLinearGradient(left, 0, left + wide, 0)
    fading.addColorStop(Math.max(0, 1 - 14 / wide), t.amber)
    fading.addColorStop(1, `${t.amber}00`)
    context.fillStyle = fading
    context.fillRect(left, y + 4, wide, 14)
    context.strokeStyle = t.amber
    context.strokeRect(left + 0.5, y + 4.5, 1, 13)
  } else {
    context.fillStyle = bar.state.startsWith('opened') ? t.plum : t.teal
    context.beginPath()
    if (bar.start === bar.close) context.arc(left + 5, middle, 5, 0, 2 * Math.PI)
    else context.roundRect(left, y + 4, wide, 14, 3)
    context.fill()
  }
  if (dayNumber(bar.start) < from.value) write('‹', left - 8, t.ink)
  if (bar.cancelled) write('×', left + wide + 3, t.ink)
}

/** What a bar says is made once, and not with every step of a scroll. */
const wordsOf = new WeakMap<Bar, string>()
function words(bar: Bar): string {
  let made = wordsOf.get(bar)
  if (made === undefined) {
    const end = bar.close
      ? withWeekday(bar.close) + (bar.cancelled ? ' (cancelled)' : '')
      : `${answer.data_date}, still open`
    const unit = answer.heading?.split(', ')[1] ?? ''
    const age = bar.age === null ? '' : `, ${length(bar.age)} ${unit}`
    made = `${bar.number} ${bar.reason}: from ${withWeekday(bar.start)} to ${end}${age}`
    wordsOf.set(bar, made)
  }
  return made
}

/** Days that are named above, not too near each other. */
const ticks = computed(() => {
  const step = Math.max(1, Math.ceil(84 / perDay.value))
  const ticks: { left: string; name: string }[] = []
  for (let d = 0; (days.value - d) * perDay.value > 70 || d === 0; d += step) {
    ticks.push({
      left: `${x(from.value + d)}px`,
      name: new Date((from.value + d) * 86_400_000).toISOString().slice(0, 10),
    })
  }
  return ticks
})

const said = ref('')
</script>

<template>
  <div class="panel">
    <div class="days" aria-hidden="true">
      <span v-for="tick in ticks" :key="tick.name" :style="{ left: tick.left }">{{ tick.name }}</span>
    </div>
    <div
      ref="frame"
      class="frame"
      tabindex="0"
      role="region"
      aria-label="Orders over the days"
      data-test="timeline"
      @scroll="scrolled"
    >
      <canvas
        ref="canvas"
        aria-hidden="true"
        :style="{ height: `${height}px`, marginBottom: `-${height}px` }"
      />
      <div class="all" :style="{ height: `${stretch.all * barHeight}px` }">
        <button
          v-for="{ at, bar } in drawn"
          :key="at % slots"
          type="button"
          class="bar"
          :style="{ top: `${at * barHeight}px` }"
          :aria-label="bar ? words(bar) : 'Loading'"
          data-test="bar"
          @click="bar && emit('open', bar.number)"
          @focus="said = bar ? words(bar) : ''"
          @mouseenter="said = bar ? words(bar) : ''"
        />
      </div>
    </div>
    <p class="said muted" data-test="bar-words">
      {{
        said ||
        'Teal was carried in, plum opened inside, amber with an open end still runs; ‹ began earlier, × was cancelled, ● closed on the day it started. Shaded: not worked there.'
      }}
    </p>
  </div>
</template>

<style scoped>
.days {
  position: relative;
  height: 26px;
  font-size: 0.75rem;
  color: rgb(var(--v-theme-muted));
  overflow: hidden;
}

.days span {
  position: absolute;
  top: 7px;
  padding-left: 3px;
  border-left: 1px solid rgb(var(--v-theme-line));
}

.frame {
  height: min(520px, 60vh);
  overflow-y: auto;
  overflow-x: hidden;
  contain: strict;
}

.frame canvas {
  position: sticky;
  top: 0;
  display: block;
  width: 100%;
  pointer-events: none;
}

.all {
  position: relative;
}

.bar {
  position: absolute;
  left: 0;
  height: 24px;
  width: 100%;
  contain: strict;
}

.bar:hover,
.bar:focus-visible {
  background: color-mix(in srgb, rgb(var(--v-theme-secondary)) 12%, transparent);
}

.said {
  padding: 8px 12px;
  font-size: 0.82rem;
  min-height: 36px;
}
</style>
