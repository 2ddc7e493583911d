<script setup lang="ts">
import type { CalendarDefinition } from '@/api/client'

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
        <label v-else
          >from
          <input
            class="text"
            :value="w.from"
            @change="emit('change', { weeks: changed(definition.weeks, i, { ...w, from: value($event) }) })"
        /></label>
        <span class="weekdays">
          <button
            v-for="d in weekdays"
            :key="d"
            type="button"
            :aria-pressed="w.days.split(' ').includes(d)"
            :data-test="`week-${i}-${d}`"
            @click="toggle(i, d)"
          >
            {{ d.slice(0, 2) }}
          </button>
        </span>
        <button
          v-if="i > 0"
          type="button"
          class="link"
          @click="emit('change', { weeks: changed(definition.weeks, i, undefined) })"
        >
          remove
        </button>
      </div>
      <button
        type="button"
        class="link"
        data-test="add-week"
        @click="
          emit('change', {
            weeks: [
              ...definition.weeks,
              {
                from: nextAfter(definition.weeks),
                days: definition.weeks.at(-1)?.days ?? 'Mon Tue Wed Thu Fri',
              },
            ],
          })
        "
      >
        another week from a day on
      </button>
    </section>
    <section>
      <h3>Daily hours</h3>
      <div v-for="(h, i) in definition.hours" :key="i" class="rule">
        <span v-if="h.from === beginning" class="muted">from the beginning</span>
        <label v-else
          >from
          <input
            class="text"
            :value="h.from"
            @change="emit('change', { hours: changed(definition.hours, i, { ...h, from: value($event) }) })"
        /></label>
        <input
          class="text wide"
          :value="h.hours"
          :aria-label="`Hours from ${h.from} on`"
          :data-test="`hours-${i}`"
          @change="emit('change', { hours: changed(definition.hours, i, { ...h, hours: value($event) }) })"
        />
        <button
          type="button"
          class="link"
          @click="emit('change', { hours: changed(definition.hours, i, undefined) })"
        >
          remove
        </button>
      </div>
      <button
        type="button"
        class="link"
        data-test="add-hours"
        @click="
          emit('change', {
            hours: [
              ...definition.hours,
              {
                from: definition.hours.length > 0 ? nextAfter(definition.hours) : beginning,
                hours: definition.hours.at(-1)?.hours ?? '08:00-16:30',
              },
            ],
          })
        "
      >
        {{ definition.hours.length > 0 ? 'other hours from a day on' : 'give daily hours' }}
      </button>
    </section>
    <section>
      <h3>Holidays are known</h3>
      <div class="rule">
        <label
          >from
          <input
            class="text"
            :value="definition.coverage_from"
            placeholder="follows from them"
            @change="emit('change', { coverage_from: value($event) || undefined })"
        /></label>
        <label
          >to
          <input
            class="text"
            :value="definition.coverage_to"
            placeholder="follows from them"
            @change="emit('change', { coverage_to: value($event) || undefined })"
        /></label>
      </div>
    </section>
  </div>
</template>

<style scoped>
.rules {
  display: grid;
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
  gap: 4px 8px;
  align-items: center;
  margin-bottom: 6px;
}

.text {
  width: 128px;
  padding: 3px 6px;
  font: inherit;
  color: inherit;
  background: rgb(var(--v-theme-background));
  border: 1px solid rgb(var(--v-theme-line));
  border-radius: 6px;
}

.wide {
  width: 190px;
}

.text::placeholder {
  color: rgb(var(--v-theme-muted));
  opacity: 1;
}

.weekdays {
  display: flex;
  gap: 2px;
}

.weekdays button {
  width: 30px;
  padding: 2px 0;
  border-radius: 4px;
  border: 1px solid rgb(var(--v-theme-line));
  color: rgb(var(--v-theme-muted));
}

.weekdays button[aria-pressed='true'] {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-surface));
}

.link {
  color: rgb(var(--v-theme-primary));
  text-decoration: underline;
}
</style>
