<script setup lang="ts">
import { computed } from 'vue'
import type { StripDay } from '@/api/client'
import { length, weekdayOf, withWeekday } from '@/format'

// A length opened into its days, a week to a line: counted days bear their running number, or in hours their own.
const { days } = defineProps<{ days: readonly StripDay[] }>()

const marks: Record<string, string> = { 'after cut-off': '›', start: '·', holiday: 'H', weekend: '–' }

/** What stands before the number of a counted day. */
const signs: Record<string, string> = { counted: '', 'half day': '~', 'extra working day': '+' }

const cells = computed(() => {
  let counted = 0
  return days.map((d) => {
    const sign = signs[d.part]
    if (sign !== undefined) counted++
    const number = d.hours === undefined ? String(counted) : length(d.hours)
    const mark = sign === undefined ? (marks[d.part] ?? '') : sign + number
    const hours = d.hours === undefined ? '' : `, ${length(d.hours)} hours`
    return {
      ...d,
      mark,
      kind: d.part.split(' ')[0],
      words: `${withWeekday(d.day)}: ${d.part}${hours}${d.name ? `, ${d.name}` : ''}`,
    }
  })
})

const named = computed(() => cells.value.filter((c) => c.name))

/** What the marks of this strip mean, but for plain numbers. */
const legend = computed(() => {
  const signed = { ...marks, 'half day': '~', 'extra working day': '+' }
  return Object.entries(signed).filter(([part]) => days.some((d) => d.part === part))
})

/** Empty cells before the first day, so that weeks begin on Monday. */
const before = computed(() => (days[0] ? (weekdayOf(days[0].day) + 6) % 7 : 0))
</script>

<template>
  <div>
    <ol class="strip" aria-label="The length, day by day">
      <li
        v-for="name in ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']"
        :key="name"
        class="head"
        aria-hidden="true"
      >
        {{ name }}
      </li>
      <li v-for="n in before" :key="`before-${n}`" aria-hidden="true" />
      <li
        v-for="c in cells"
        :key="c.day"
        :class="['cell', c.kind]"
        :title="c.words"
        :aria-label="c.words"
        :data-part="c.part"
      >
        {{ c.mark }}
      </li>
    </ol>
    <p v-if="legend.length > 0" class="muted named" aria-hidden="true">
      {{ legend.map(([part, mark]) => `${mark} ${part}`).join('\u2003') }}
    </p>
    <p v-for="c in named" :key="c.day" class="muted named">{{ withWeekday(c.day) }} {{ c.name }}</p>
  </div>
</template>

<style scoped>
.strip {
  display: grid;
  grid-template-columns: repeat(7, 40px);
  gap: 3px;
  list-style: none;
  padding: 0;
}

.head {
  font-size: 0.72rem;
  color: rgb(var(--v-theme-muted));
  text-align: center;
}

.cell {
  height: 30px;
  display: grid;
  place-items: center;
  border-radius: 5px;
  font-size: 0.82rem;
  border: 1px solid rgb(var(--v-theme-line));
}

.counted,
.half,
.extra {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-surface));
  border-color: transparent;
}

.half,
.extra {
  outline: 2px solid rgb(var(--v-theme-secondary));
  outline-offset: -2px;
}

.half {
  outline-style: dashed;
}

.holiday {
  color: rgb(var(--v-theme-secondary));
  border: 1px dashed rgb(var(--v-theme-secondary));
  font-weight: 700;
}

.after,
.weekend {
  color: rgb(var(--v-theme-muted));
}

.named {
  font-size: 0.85rem;
  margin-top: 4px;
}
</style>
