<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import type { CalendarDefinition } from '@/api/client'
import DayField from './DayField.vue'

// The rules of a calendar: its weeks and daily hours, each from a day on, and the days for which holidays are known.
const { definition, year } = defineProps<{ definition: CalendarDefinition; year: number }>()
const emit = defineEmits<{ change: [to: Partial<CalendarDefinition>] }>()

const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const beginning = '1900-01-01'

/** A list with one of its entries changed; without it where the change is nothing. */
function changed<T>(list: readonly T[], at: number, to: T | undefined): T[] {
  return list.flatMap((entry, i) => (i === at ? (to ? [to] : []) : [entry]))
}

function toggle(at: number, weekday: string) {
  const week = definition.weeks[at]
  if (!week) return
  const worked = week.days.split(' ')
  const days = weekdays.filter((d) => worked.includes(d) !== (d === weekday)).join(' ')
  emit('change', { weeks: changed(definition.weeks, at, { ...week, days }) })
}

const value = (event: Event) => (event.target as HTMLInputElement).value.trim()

function addWeek() {
  const { weeks } = definition
  const days = weeks.at(-1)?.days ?? 'Mon Tue Wed Thu Fri'
  emit('change', { weeks: [...weeks, { from: nextAfter(weeks), days }] })
}

function addHours() {
  const { hours } = definition
  const from = hours.length > 0 ? nextAfter(hours) : beginning
  emit('change', { hours: [...hours, { from, hours: hours.at(-1)?.hours ?? '08:00-16:30' }] })
}

/** Where another rule begins: with the year after the one that is shown, or after the last rule. */
function nextAfter(rules: readonly { from: string }[]): string {
  const last = Number(rules.at(-1)?.from.slice(0, 4) ?? 0)
  return `${Math.max(year, last) + 1}-01-01`
}
</script>

<template>
  <div class="rules" data-test="rules">
    <section>
      <h3>Week</h3>
      <div v-for="(w, i) in definition.weeks" :key="i" class="rule">
        <span v-if="w.from === beginning" class="muted">from the beginning</span>
        <DayField
          v-else
          label="from"
          :model-value="w.from"
          @update:model-value="
            emit('change', { weeks: changed(definition.weeks, i, { ...w, from: $event }) })
          "
        />
        <v-btn-toggle
          :model-value="w.days.split(' ')"
          multiple
          density="compact"
          variant="outlined"
          divided
          role="group"
          aria-label="Working days"
        >
          <v-btn
            v-for="d in weekdays"
            :key="d"
            :value="d"
            size="small"
            class="weekday"
            :aria-pressed="w.days.split(' ').includes(d)"
            :data-test="`week-${i}-${d}`"
            @click="toggle(i, d)"
            >{{ d.slice(0, 2) }}</v-btn
          >
        </v-btn-toggle>
        <v-btn
          v-if="i > 0"
          :icon="mdiClose"
          size="small"
          aria-label="Remove this week"
          @click="emit('change', { weeks: changed(definition.weeks, i, undefined) })"
        />
      </div>
      <v-btn size="small" data-test="add-week" @click="addWeek">another week from a day on</v-btn>
    </section>
    <section>
      <h3>Daily hours</h3>
      <div v-for="(h, i) in definition.hours" :key="i" class="rule">
        <span v-if="h.from === beginning" class="muted">from the beginning</span>
        <DayField
          v-else
          label="from"
          :model-value="h.from"
          @update:model-value="
            emit('change', { hours: changed(definition.hours, i, { ...h, from: $event }) })
          "
        />
        <v-text-field
          :model-value="h.hours"
          :aria-label="`Hours from ${h.from} on`"
          :data-test="`hours-${i}`"
          @change="emit('change', { hours: changed(definition.hours, i, { ...h, hours: value($event) }) })"
        />
        <v-btn
          :icon="mdiClose"
          size="small"
          aria-label="Remove these hours"
          @click="emit('change', { hours: changed(definition.hours, i, undefined) })"
        />
      </div>
      <v-btn size="small" data-test="add-hours" @click="addHours">{{
        definition.hours.length > 0 ? 'other hours from a day on' : 'give daily hours'
      }}</v-btn>
    </section>
    <section>
      <h3>Holidays are known</h3>
      <div class="rule">
        <DayField
          v-for="(end, word) in { coverage_from: 'from', coverage_to: 'to' }"
          :key="word"
          :label="end"
          :model-value="definition[word] ?? ''"
          hint="empty: as far as the holidays go"
          @update:model-value="emit('change', { [word]: $event || undefined })"
        />
      </div>
    </section>
  </div>
</template>

<style scoped>
.rules {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 14px;
  font-size: 0.85rem;
}

h3 {
  font-size: 0.85rem;
  font-weight: 600;
  margin-bottom: 4px;
}

.rule {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
  margin-bottom: 8px;
}

.weekday {
  min-width: 0;
  padding: 0 8px;
}

.rule .v-input {
  flex: 1 1 9rem;
}
</style>
