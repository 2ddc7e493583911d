<script setup lang="ts">
import { computed } from 'vue'
import type { CalendarDay } from '@/api/client'
import { weekdayOf, withWeekday } from '@/format'

// A year at a glance: twelve months, a mark for every day that is not an ordinary one.
const { days, differing, chosen } = defineProps<{
  days: readonly CalendarDay[]
  /** The days on which another calendar differs. */
  differing: ReadonlySet<string>
  chosen?: string
}>()
const emit = defineEmits<{ choose: [day: string] }>()

const names = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
]

const months = computed(() =>
  names.map((name, i) => {
    const month = String(i + 1).padStart(2, '0')
    const own = days.filter((d) => d.day.slice(5, 7) === month)
    return {
      name,
      before: own[0] ? (weekdayOf(own[0].day) + 6) % 7 : 0,
      days: own,
      worked: own.filter((d) => ['working', 'half day', 'extra working day'].includes(d.kind)).length,
    }
  }),
)

function words(d: CalendarDay): string {
  return [
    `${withWeekday(d.day)}: ${d.kind}`,
    d.name,
    d.hours,
    d.known ? '' : 'holidays unknown',
    differing.has(d.day) ? 'the other calendar differs' : '',
  ]
    .filter(Boolean)
    .join(', ')
}

const kindOf = (d: CalendarDay) => d.kind.split(' ')[0]

/** The arrow keys move from day to day. */
function walk(event: KeyboardEvent, day: string) {
  const step = { ArrowLeft: -1, ArrowRight: 1, ArrowUp: -7, ArrowDown: 7 }[event.key]
  if (!step) return
  event.preventDefault()
  const next = days[days.findIndex((d) => d.day === day) + step]
  if (next) document.querySelector<HTMLElement>(`[data-day="${next.day}"]`)?.focus()
}
</script>

<template>
  <div class="year" data-test="year">
    <section v-for="m in months" :key="m.name" :aria-label="m.name">
      <h3>
        {{ m.name }} <span class="muted">{{ m.worked }}</span>
      </h3>
      <div class="month">
        <span
          v-for="(letter, i) in ['M', 'T', 'W', 'T', 'F', 'S', 'S']"
          :key="i"
          class="head"
          aria-hidden="true"
          >{{ letter }}</span
        >
        <span v-for="n in m.before" :key="`before-${n}`" />
        <button
          v-for="(d, i) in m.days"
          :key="d.day"
          type="button"
          :class="[
            'day',
            kindOf(d),
            { unknown: !d.known, differs: differing.has(d.day), chosen: d.day === chosen },
          ]"
          :title="words(d)"
          :aria-label="`${Number(d.day.slice(8))}, ${words(d)}`"
          :tabindex="d.day === chosen || (!chosen?.startsWith(d.day.slice(0, 7)) && i === 0) ? 0 : -1"
          :data-day="d.day"
          :data-kind="d.kind"
          @click="emit('choose', d.day)"
          @keydown="walk($event, d.day)"
        >
          {{ Number(d.day.slice(8)) }}
        </button>
      </div>
    </section>
  </div>
</template>

<style scoped>
.year {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(max(196px, 22%), 1fr));
  gap: 14px 20px;
}

h3 {
  font-size: 0.88rem;
  font-weight: 600;
  margin-bottom: 4px;
}

h3 .muted {
  font-weight: 400;
}

.month {
  display: grid;
  grid-template-columns: repeat(7, 1fr);
  gap: 2px;
  font-size: 0.76rem;
}

.head {
  text-align: center;
  color: rgb(var(--v-theme-muted));
  font-size: 0.68rem;
}

.day {
  height: 23px;
  border-radius: 4px;
  text-align: center;
  border: 1px solid transparent;
}

.weekend {
  color: rgb(var(--v-theme-muted));
  background: rgb(var(--v-theme-background));
}

.holiday {
  color: rgb(var(--v-theme-secondary));
  border: 1px dashed rgb(var(--v-theme-secondary));
  font-weight: 700;
}

.extra {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-surface));
  font-weight: 600;
}

.half {
  background: linear-gradient(135deg, rgb(var(--v-theme-primary)) 50%, transparent 50%);
  border-color: rgb(var(--v-theme-primary));
  font-weight: 700;
}

.unknown {
  text-decoration: underline dotted rgb(var(--v-theme-muted)) 1px;
  text-underline-offset: 3px;
}

.differs {
  box-shadow: 0 0 0 2px rgb(var(--v-theme-secondary));
}

.chosen {
  outline: 2px solid rgb(var(--v-theme-on-surface));
  outline-offset: 1px;
}
</style>
