<script setup lang="ts">
import { computed } from 'vue'
import type { CalendarDay, Order } from '@/api/client'
import { withWeekday } from '@/format'

// The milestones of an order in time: every day between them as its calendar has it, working days tall, others low.
const { days, milestones } = defineProps<{ days: readonly CalendarDay[]; milestones: Order['days'] }>()

const height = 46
const width = 380

const step = computed(() => width / days.length)
const bars = computed(() =>
  days.map((d, i) => {
    const works = !['weekend', 'holiday'].includes(d.kind)
    return {
      day: d.day,
      kind: d.kind.replaceAll(' ', '-'),
      x: i * step.value,
      y: works ? 14 : 24,
      height: works ? 18 : 8,
      words: `${withWeekday(d.day)}: ${d.kind}${d.name ? `, ${d.name}` : ''}`,
    }
  }),
)

/** Milestones of one day share a flag. */
const flags = computed(() => {
  const byDay = new Map<string, number[]>()
  milestones.forEach((m, i) => byDay.set(m.day, [...(byDay.get(m.day) ?? []), i + 1]))
  return [...byDay].map(([day, numbers], i) => ({
    day,
    words: numbers.join(','),
    x: (days.findIndex((d) => d.day === day) + 0.5) * step.value,
    y: i % 2 === 0 ? 10 : 44, // above and below in turn, so that near ones can be read
  }))
})
const spoken = computed(() => milestones.map((m) => `${m.name} ${m.day}`).join(', '))
</script>

<template>
  <svg
    :viewBox="`-8 0 ${width + 16} ${height}`"
    role="img"
    :aria-label="`In time, over working and other days: ${spoken}`"
    data-test="life"
  >
    <rect
      v-for="b in bars"
      :key="b.day"
      :class="['day', b.kind]"
      :x="b.x"
      :y="b.y"
      :width="Math.max(0.5, step - Math.min(1, step / 4))"
      :height="b.height"
    >
      <title>{{ b.words }}</title>
    </rect>
    <g v-for="f in flags" :key="f.day">
      <line :x1="f.x" :x2="f.x" :y1="f.y === 10 ? 11 : 12" :y2="f.y === 10 ? 34 : 35" />
      <text :x="f.x" :y="f.y" text-anchor="middle">{{ f.words }}</text>
    </g>
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  margin: 8px 0;
}

.day {
  fill: color-mix(in srgb, rgb(var(--v-theme-primary)) 45%, rgb(var(--v-theme-surface)));
}

.weekend {
  fill: rgb(var(--v-theme-line));
}

.holiday {
  fill: rgb(var(--v-theme-plum));
}

line {
  stroke: rgb(var(--v-theme-secondary));
  stroke-width: 1.5;
}

text {
  font-size: 10px;
  fill: rgb(var(--v-theme-secondary));
  font-weight: 600;
}
</style>
