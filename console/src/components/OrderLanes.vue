<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import { useTheme } from 'vuetify'
import type { Lane, Lanes } from '@/api/client'
import { length, withWeekday } from '@/format'
import { dark, light } from '@/theme'

// The orders that were open, each a bar over its days: only the lanes that are looked at are in the page, drawn on one
// canvas, under buttons that say what a lane is. Days that are not worked are shaded by each order's own calendar; the period
// stands between two lines; running orders end in an open bar.
const { lanes, laneAt } = defineProps<{
  lanes: Lanes
  laneAt: (i: number) => (Lane & { off: readonly number[]; calendarName: string }) | undefined
}>()
const emit = defineEmits<{ need: [first: number, last: number]; open: [number: string] }>()

const laneHeight = 22
const beyond = 4
/** Lanes that are fetched before one scrolls there. */
const ahead = 100
const frame = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const top = ref(0)
const height = ref(480)
const width = ref(900)

const first = computed(() => Math.max(0, Math.floor(top.value / laneHeight) - beyond))
const last = computed(() =>
  Math.min(lanes.all - 1, Math.ceil((top.value + height.value) / laneHeight) + beyond),
)
const drawn = computed(() =>
  Array.from({ length: Math.max(0, last.value - first.value + 1) }, (_, i) => ({
    at: first.value + i,
    lane: laneAt(first.value + i),
  })),
)
/** Elements are used again for other lanes. */
const slots = computed(() => Math.ceil(drawn.value.length / 24) * 24)
watch([first, last, () => lanes], () =>
  emit('need', Math.max(0, first.value - ahead), Math.min(lanes.all - 1, last.value + ahead)),
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
  () => lanes.sentence,
  () => frame.value?.scrollTo({ top: 0 }),
)

const dayNumber = (day: string) => Date.parse(`${day}T00:00:00Z`) / 86_400_000
const from = computed(() => dayNumber(lanes.shown.from))
const days = computed(() => dayNumber(lanes.shown.to) - from.value + 1)
/** The names stand left of the days, and the reasons right of them. */
const names = 104
const reasons = computed(() => (width.value > 760 ? 220 : 0))
const perDay = computed(() => Math.max(1, width.value - names - reasons.value) / days.value)
const x = (day: number) => names + (day - from.value) * perDay.value

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

/** Draws once before the next frame, however often it is asked to. */
let asked = 0
watch(
  [drawn, top, height, width, perDay, tokens, () => lanes],
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
  for (const { at, lane } of drawn.value) {
    if (lane) drawLane(context, lane, at * laneHeight)
  }
  context.strokeStyle = tokens.value.ink
  context.setLineDash([4, 3])
  for (const day of [dayNumber(lanes.from), dayNumber(lanes.to) + 1]) {
    const edge = Math.round(x(day)) + 0.5
    context.beginPath()
    context.moveTo(edge, top.value)
    context.lineTo(edge, top.value + height.value)
    context.stroke()
  }
  context.setLineDash([])
}

function drawLane(context: CanvasRenderingContext2D, lane: Lane & { off: readonly number[] }, y: number) {
  const t = tokens.value
  const middle = y + laneHeight / 2
  const write = (text: string, left: number, colour: string) => {
    context.fillStyle = colour
    context.fillText(text, left, middle)
  }
  if (perDay.value >= 2) {
    context.globalAlpha = 0.55
    context.fillStyle = t.line
    for (const d of lane.off) context.fillRect(x(from.value + d), y, perDay.value, laneHeight)
    context.globalAlpha = 1
  }
  write(lane.number, 12, t.ink)
  if (reasons.value) write(lane.reason, width.value - reasons.value + 12, t.muted)
  const start = Math.max(dayNumber(lane.start), from.value)
  const end = Math.min(dayNumber(lane.close ?? lanes.data_date), from.value + days.value - 1)
  const [left, wide] = [x(start), Math.max(3, (end - start + 1) * perDay.value)]
  if (!lane.close) {
    const fading = context.createLinearGradient(left, 0, left + wide, 0)
    fading.addColorStop(Math.max(0, 1 - 14 / wide), t.amber)
    fading.addColorStop(1, `${t.amber}00`)
    context.fillStyle = fading
    context.fillRect(left, y + 4, wide, 14)
    context.strokeStyle = t.amber
    context.strokeRect(left + 0.5, y + 4.5, 1, 13)
  } else {
    context.fillStyle = lane.fate.startsWith('opened') ? t.plum : t.teal
    context.beginPath()
    if (lane.start === lane.close) context.arc(left + 5, middle, 5, 0, 2 * Math.PI)
    else context.roundRect(left, y + 4, wide, 14, 3)
    context.fill()
  }
  if (dayNumber(lane.start) < from.value) write('‹', left - 8, t.ink)
  if (lane.cancelled) write('×', left + wide + 3, t.ink)
}

/** What a lane says is made once, and not with every step of a scroll. */
const wordsOf = new WeakMap<Lane, string>()
function words(lane: Lane): string {
  let made = wordsOf.get(lane)
  if (made === undefined) {
    const end = lane.close
      ? withWeekday(lane.close) + (lane.cancelled ? ' (cancelled)' : '')
      : `${lanes.data_date}, still open`
    const unit = lanes.heading.split(', ')[1] ?? ''
    const age = lane.age === null ? '' : `, ${length(lane.age)} ${unit}`
    made = `${lane.number} ${lane.reason}: from ${withWeekday(lane.start)} to ${end}${age}`
    wordsOf.set(lane, made)
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
      data-test="lanes"
      @scroll="scrolled"
    >
      <canvas
        ref="canvas"
        aria-hidden="true"
        :style="{ height: `${height}px`, marginBottom: `-${height}px` }"
      />
      <div class="all" :style="{ height: `${lanes.all * laneHeight}px` }">
        <button
          v-for="{ at, lane } in drawn"
          :key="at % slots"
          type="button"
          class="lane"
          :style="{ top: `${at * laneHeight}px` }"
          :aria-label="lane ? words(lane) : 'Loading'"
          data-test="lane"
          @click="lane && emit('open', lane.number)"
          @focus="said = lane ? words(lane) : ''"
          @mouseenter="said = lane ? words(lane) : ''"
        />
      </div>
    </div>
    <p class="said muted" data-test="lane-words">
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

.lane {
  position: absolute;
  left: 0;
  height: 22px;
  width: 100%;
  contain: strict;
}

.lane:hover,
.lane:focus-visible {
  background: color-mix(in srgb, rgb(var(--v-theme-secondary)) 12%, transparent);
}

.said {
  padding: 8px 12px;
  font-size: 0.82rem;
  min-height: 36px;
}
</style>
