<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue'
import type { Lane, Lanes } from '@/api/client'
import { length, withWeekday } from '@/format'

// The orders that were open, each a bar over its days: only the lanes that are looked at are in the page. Days that are not
// worked are shaded by each order's own calendar; the period stands between two lines; running orders end in an open bar.
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
onUnmounted(() => watcher.disconnect())
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

/** The rest days of a calendar as one background for all its lanes. */
const grounds = new Map<string, string>()
watch([perDay, () => lanes.shown], () => grounds.clear())
function ground(lane: { off: readonly number[]; calendarName: string }): string {
  const key = `${lane.calendarName} ${perDay.value} ${lanes.shown.from} ${lanes.shown.to}`
  const known = grounds.get(key)
  if (known !== undefined) return known
  const shade = 'color-mix(in srgb, rgb(var(--v-theme-line)) 55%, transparent)'
  const stops = lane.off.map((d) => {
    const [a, b] = [d * perDay.value, (d + 1) * perDay.value].map((p) => `${p.toFixed(1)}px`)
    return `transparent ${a}, ${shade} ${a}, ${shade} ${b}, transparent ${b}`
  })
  const made = perDay.value < 2 || stops.length === 0 ? 'none' : `linear-gradient(90deg, ${stops.join(', ')})`
  grounds.set(key, made)
  return made
}

function bar(lane: Lane) {
  const start = Math.max(dayNumber(lane.start), from.value)
  const end = Math.min(dayNumber(lane.close ?? lanes.data_date), from.value + days.value - 1)
  return {
    left: `${x(start)}px`,
    width: `${Math.max(3, (end - start + 1) * perDay.value)}px`,
  }
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
      <div class="all" :style="{ height: `${lanes.all * laneHeight}px` }">
        <i class="edge" :style="{ left: `${x(dayNumber(lanes.from))}px` }" />
        <i class="edge" :style="{ left: `${x(dayNumber(lanes.to) + 1)}px` }" />
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
        >
          <template v-if="lane">
            <span class="name">{{ lane.number }}</span>{{ ' ' }}
            <span
              class="ground"
              :style="{ left: `${names}px`, width: `${days * perDay}px`, background: ground(lane) }"
            />
            <span
              class="bar"
              :class="[
                lane.fate,
                {
                  running: !lane.close,
                  cancelled: lane.cancelled,
                  brief: lane.start === lane.close,
                  before: dayNumber(lane.start) < from,
                },
              ]"
              :style="bar(lane)"
            />
            <span v-if="reasons" class="reason muted" :style="{ width: `${reasons - 12}px` }">{{
              lane.reason
            }}</span>
          </template>
        </button>
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

.all {
  position: relative;
}

.lane {
  position: absolute;
  left: 0;
  right: 0;
  height: 22px;
  width: 100%;
  text-align: left;
  font-size: 0.8rem;
  contain: layout style paint;
}

.lane:hover,
.lane:focus-visible {
  background: color-mix(in srgb, rgb(var(--v-theme-secondary)) 12%, transparent);
}

.name {
  position: absolute;
  top: 0;
  left: 12px;
  line-height: 22px;
}

.ground {
  position: absolute;
  top: 0;
  bottom: 0;
}

.bar {
  position: absolute;
  top: 4px;
  height: 14px;
  border-radius: 3px;
  background: rgb(var(--v-theme-primary));
}

.bar.opened,
.bar.opened-and-closed {
  background: rgb(var(--v-theme-plum));
}

.bar.running {
  border-radius: 3px 0 0 3px;
  background: linear-gradient(90deg, rgb(var(--v-theme-secondary)) calc(100% - 14px), transparent);
  border: 1.5px solid rgb(var(--v-theme-secondary));
  border-right: 0;
}

.bar.before::before {
  content: '‹';
  position: absolute;
  left: -9px;
  top: -5px;
  font-size: 1rem;
  color: rgb(var(--v-theme-on-surface));
}

.bar.cancelled::after {
  content: '×';
  position: absolute;
  right: -11px;
  top: -5px;
  font-size: 1rem;
  color: rgb(var(--v-theme-on-surface));
}

.bar.brief {
  width: 10px !important;
  height: 10px;
  top: 6px;
  border-radius: 50%;
}

.reason {
  position: absolute;
  top: 0;
  right: 8px;
  line-height: 22px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.edge {
  position: absolute;
  top: 0;
  bottom: 0;
  border-left: 1.5px dashed rgb(var(--v-theme-on-surface));
  z-index: 1;
  pointer-events: none;
}

.said {
  padding: 8px 12px;
  font-size: 0.82rem;
  min-height: 36px;
}
</style>
