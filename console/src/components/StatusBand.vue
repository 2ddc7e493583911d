<script setup lang="ts">
import { computed } from 'vue'
import type { CalendarDay, OrderStatuses } from '@/api/client'
import { length, withWeekday } from '@/format'
import { statusColour } from '@/theme'
import { useTokens } from '@/composables/useTokens'

// What an order went through: its status periods as a band over the days of its calendar, and one below the other.
const { statuses, days, unit } = defineProps<{
  statuses: OrderStatuses
  /** Every day from the first milestone to the last, as the order's calendar has it. */
  days: readonly CalendarDay[]
  unit: string
}>()

const tokens = useTokens()
const names = computed(() => [...new Set(statuses.periods.map((s) => s.status))])
const colourOf = (s: OrderStatuses['periods'][number]) =>
  s.status === 'not seen'
    ? tokens.value.line
    : statusColour(s.colour, names.value.indexOf(s.status), tokens.value)

const width = 380
const number = (day: string) => Date.parse(`${day}T00:00:00Z`) / 86_400_000
const from = computed(() => number(statuses.periods[0]?.from ?? ''))
const last = computed(() => {
  const ends = statuses.periods.map((s) => number(s.until ?? s.last_seen))
  return Math.max(from.value + 1, ...ends, ...days.map((d) => number(d.day)))
})
const x = (day: number) => ((day - from.value) / (last.value - from.value + 1)) * width
const band = computed(() =>
  statuses.periods.map((s) => {
    const end = s.until ? number(s.until) : s.running ? last.value + 1 : number(s.last_seen) + 1
    return { ...s, x: x(number(s.from)), width: Math.max(2, x(end) - x(number(s.from))), colour: colourOf(s) }
  }),
)
const rest = computed(() =>
  days
    .filter((d) => ['weekend', 'holiday'].includes(d.kind) && number(d.day) >= from.value)
    .map((d) => ({ day: d.day, x: x(number(d.day)), width: x(number(d.day) + 1) - x(number(d.day)) })),
)
const until = (s: OrderStatuses['periods'][number]) =>
  s.until ? withWeekday(s.until) : s.running ? 'still in it' : 'the end'
</script>

<template>
  <svg
    :viewBox="`0 0 ${width} 30`"
    role="img"
    :aria-label="`Statuses in time: ${statuses.periods.map((s) => `${s.status} from ${s.from}`).join(', ')}`"
    data-test="status-band"
  >
    <rect v-for="s in band" :key="s.sequence" :x="s.x" y="2" :width="s.width" height="18" :fill="s.colour">
      <title>{{ s.status }}: {{ withWeekday(s.from) }} to {{ until(s) }}</title>
    </rect>
    <rect v-for="d in rest" :key="d.day" class="rest" :x="d.x" y="22" :width="d.width" height="6" />
  </svg>
  <ol data-test="order-periods">
    <li v-for="s in band" :key="s.sequence">
      <i :style="{ background: s.colour }" /><b>{{ s.status }}</b>
      <span>{{ withWeekday(s.from) }} to {{ until(s) }}</span>
      <span v-if="s.length !== null" class="muted">{{ length(s.length) }} {{ unit.replace('-', ' ') }}</span>
      <span v-if="s.returned" class="amber">came back</span>
    </li>
  </ol>
  <p v-if="statuses.ambiguous" class="amber">
    Two records of one moment name different statuses; the later row counts.
  </p>
  <p v-for="d in statuses.disagreements" :key="d.day" class="amber">
    {{ d.day }}: the daily list says {{ d.daily }}, the events {{ d.events }}.
  </p>
  <p v-if="rest.length > 0" class="muted">Marked below the band: days that are not worked.</p>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
}

.rest {
  fill: rgb(var(--v-theme-line));
}

ol {
  list-style: none;
  padding: 0;
  font-size: 0.86rem;
  line-height: 1.7;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  align-items: center;
}

i {
  width: 10px;
  height: 10px;
  border-radius: 3px;
}

b {
  font-weight: 500;
}
</style>
