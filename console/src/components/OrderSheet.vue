<script setup lang="ts">
import { computed, inject, ref } from 'vue'
import type { Order } from '@/api/client'
import { useAnswer } from '@/composables/useAnswer'
import { length, withWeekday } from '@/format'
import { BOOK } from '@/keys'
import { dateName, type Question } from '@/question'
import DayStrip from './DayStrip.vue'
import OrderLife from './OrderLife.vue'
import SideSheet from './SideSheet.vue'
import StateNotice from './StateNotice.vue'
import StatusBand from './StatusBand.vue'

// One order at the side: its milestones in time, the states of its legs, and the chosen length day by day.
const { number, question } = defineProps<{ number: string; question: Question }>()
const emit = defineEmits<{ close: [] }>()

const book = inject(BOOK)
const dateOf = (name: string) => dateName(name, book?.value?.milestones ?? [])

/** Any leg of the order opens into its days; first the one of the question. */
const leg = ref({ from: question.from, to: question.to })

const { answer, problem, retry } = useAnswer<Order>(() => ({
  path: `/orders/${encodeURIComponent(number)}`,
  query: {
    from: leg.value.from,
    to: leg.value.to,
    in: question.in,
    count: question.count,
    calendar: question.calendar,
  },
}))

/** The fields with a value: the currency stands with it, the country with the place; the user's own come last. */
const fields = computed(() => {
  const known = answer.value?.order.fields ?? {}
  const first = ['customer', 'site', 'place', 'channel']
  // What is known of the customer stands in a table of its own.
  const own = Object.keys(known).filter(
    (name) => ![...first, 'currency', 'country'].includes(name) && !name.startsWith('customer-'),
  )
  return [...first, ...own.sort()].flatMap((name) => (known[name] ? [{ name, value: known[name] }] : []))
})

/** Whether a column of a part holds numbers. */
const isNumber = (column: string) => ['units', 'cancelled-units', 'amount', 'line-value'].includes(column)
</script>

<template>
  <SideSheet :title="`Order ${number}`" @close="emit('close')">
    <div class="order" data-test="order-sheet">
      <StateNotice v-if="problem" :problem="problem" @retry="retry" />
      <template v-else-if="answer">
        <dl>
          <template v-for="f in fields" :key="f.name">
            <dt>{{ f.name.replaceAll('-', ' ') }}</dt>
            <dd>{{ f.value }}</dd>
          </template>
          <template v-if="answer.order.value">
            <dt>value</dt>
            <dd>{{ answer.order.value }} {{ answer.order.fields['currency'] }}</dd>
          </template>
        </dl>
        <h3>Dates</h3>
        <OrderLife v-if="answer.in_time.length > 1" :days="answer.in_time" :milestones="answer.days" />
        <ol class="milestones">
          <li v-for="(d, i) in answer.days" :key="d.name" :class="{ plan: d.plan }">
            <span class="nth">{{ i + 1 }}</span>
            <span class="day">{{ withWeekday(d.day) }} {{ d.time }}</span>
            <span
              >{{ dateOf(d.name) }}
              <span v-if="d.plan" class="muted">plan</span>
              <span v-else-if="!d.known" class="amber">after the data date: not known yet</span></span
            >
          </li>
        </ol>
        <template v-if="answer.statuses.periods.length > 0">
          <h3>Statuses, from {{ answer.statuses.source === 'daily' ? 'a daily list' : 'events' }}</h3>
          <StatusBand :statuses="answer.statuses" :days="answer.in_time" :unit="answer.unit" />
        </template>
        <p v-for="f in answer.findings" :key="f" class="amber finding">{{ f }}</p>
        <h3>
          {{ answer.leg }}: <b data-test="length">{{ answer.words }}</b>
        </h3>
        <template v-if="answer.strip.length > 0">
          <DayStrip :days="answer.strip" />
          <p class="sum" data-test="sum-line">{{ answer.sum_line }}</p>
          <p class="muted">
            Counted by the calendar {{ answer.calendar }}{{ answer.zone ? `, times in ${answer.zone}` : '' }}.
          </p>
          <p v-if="answer.order.holidays_unknown" class="amber">
            Holidays are not known for all of these days; the length follows the weekly pattern there.
          </p>
        </template>
        <h3>Its legs, in {{ answer.heading.split(', ').slice(1).join(', ') }}</h3>
        <v-table density="compact">
          <tbody>
            <tr v-for="l in answer.legs" :key="`${l.from}-${l.to}`">
              <td>
                <v-btn
                  size="small"
                  :active="answer.leg.startsWith(`from ${dateOf(l.from)} to ${dateOf(l.to)},`)"
                  :aria-pressed="answer.leg.startsWith(`from ${dateOf(l.from)} to ${dateOf(l.to)},`)"
                  :data-test="`leg-${l.from}-${l.to}`"
                  @click="leg = { from: l.from, to: l.to }"
                  >{{ dateOf(l.from) }} → {{ dateOf(l.to) }}</v-btn
                >
              </td>
              <td class="number">{{ length(l.length) }}</td>
              <td>{{ l.state_label }}</td>
            </tr>
          </tbody>
        </v-table>
        <template v-for="t in answer.parts" :key="t.kind">
          <h3>{{ t.kind.replace(/-/g, ' ') }}</h3>
          <div class="scroll" tabindex="0" role="region" :aria-label="t.kind.replace(/-/g, ' ')">
            <table class="plain small" :data-test="`parts-${t.kind}`">
              <thead>
                <tr>
                  <th v-for="c in t.columns" :key="c" scope="col" :class="{ number: isNumber(c) }">
                    {{ c.replace(/-/g, ' ') }}
                  </th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="(row, i) in t.rows" :key="i">
                  <td v-for="(cell, j) in row" :key="j" :class="{ number: isNumber(t.columns[j] ?? '') }">
                    {{ cell }}
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
        </template>
        <template v-if="answer.changes.length > 0">
          <h3>What loads have changed</h3>
          <table class="plain" data-test="changes">
            <tbody>
              <tr v-for="(c, i) in answer.changes" :key="i">
                <td class="number">{{ c.load }}</td>
                <td>{{ c.kind.replace(/s$/, '') }} {{ c.key.join(' ') }}</td>
                <td>{{ c.column }}</td>
                <td>{{ c.old || 'none' }} → {{ c.new || 'none' }}</td>
              </tr>
            </tbody>
          </table>
        </template>
      </template>
      <v-skeleton-loader v-else boilerplate type="paragraph, table-row@6" />
    </div>
  </SideSheet>
</template>

<style scoped>
.order p {
  font-size: 0.88rem;
}

h3 {
  font-size: 0.95rem;
  font-weight: 500;
  margin: 20px 0 8px;
}

dl {
  display: grid;
  grid-template-columns: 104px 1fr;
  margin-top: 12px;
  font-size: 0.9rem;
}

dt {
  color: rgb(var(--v-theme-muted));
}

.milestones {
  list-style: none;
  padding: 0 0 0 14px;
  border-left: 2px solid rgb(var(--v-theme-primary));
  font-size: 0.9rem;
  line-height: 1.8;
}

.nth {
  color: rgb(var(--v-theme-secondary));
  font-size: 0.8rem;
}

/* Its number; a weekday, a day and a time; what date it is. */
.milestones li {
  display: grid;
  grid-template-columns: 20px 180px 1fr;
}

.plan {
  font-style: italic;
}

.finding {
  margin-top: 8px;
}

h3::first-letter {
  text-transform: uppercase;
}

.small {
  font-size: 0.82rem;
}

.small th,
.small td {
  padding: 0.3rem 0.5rem;
}

.sum {
  margin-top: 10px;
  font-size: 0.88rem;
}
</style>
