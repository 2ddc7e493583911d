<script setup lang="ts">
import { computed } from 'vue'
import { monthName } from '@/format'

// A figure over the last months as a small picture: a bar for each, the last one marked, and the target as a line.
const { months, label, target } = defineProps<{
  months: readonly { month: string; text: string; value: number | null }[]
  label: string
  target?: number
}>()

const high = computed(() => Math.max(0, target ?? 0, ...months.map((m) => m.value ?? 0)) || 1)
const height = (value: number) => (34 * value) / high.value
const said = computed(() => months.map((m) => `${monthName(m.month)} ${m.text || 'none'}`).join(', '))
</script>

<template>
  <svg
    class="trend"
    :viewBox="`0 0 ${months.length * 12} 40`"
    preserveAspectRatio="none"
    role="img"
    :aria-label="`${label} by month: ${said}`"
  >
    <rect
      v-for="(m, i) in months"
      :key="m.month"
      :class="{ last: i === months.length - 1 }"
      :x="i * 12 + 1"
      :y="40 - Math.max(1, height(m.value ?? 0))"
      width="10"
      :height="Math.max(1, height(m.value ?? 0))"
    >
      <title>{{ monthName(m.month) }}: {{ m.text || 'none' }}</title>
    </rect>
    <line
      v-if="target !== undefined"
      x1="0"
      :x2="months.length * 12"
      :y1="40 - height(target)"
      :y2="40 - height(target)"
    />
  </svg>
</template>

<style scoped>
.trend {
  width: 100%;
  height: 44px;
}

rect {
  fill: color-mix(in srgb, rgb(var(--v-theme-primary)) 45%, rgb(var(--v-theme-surface)));
}

rect.last {
  fill: rgb(var(--v-theme-secondary));
}

line {
  stroke: rgb(var(--v-theme-on-surface));
  stroke-dasharray: 4 3;
  vector-effect: non-scaling-stroke;
}
</style>
