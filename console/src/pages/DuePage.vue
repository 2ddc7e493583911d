<script setup lang="ts">
import { computed, inject } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'
import type { Due } from '@/api/client'
import OrderSheet from '@/components/OrderSheet.vue'
import KeepView from '@/components/KeepView.vue'
import PageTurner from '@/components/PageTurner.vue'
import StateNotice from '@/components/StateNotice.vue'
import WordPicker from '@/components/WordPicker.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count, withWeekday } from '@/format'
import { BOOK } from '@/keys'

// Which orders are due, which of them are late and which at risk. Each number of the line lists its orders.
const pageSize = 50

const book = inject(BOOK)
const route = useRoute()
const router = useRouter()
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const standing = computed(() => text('standing') || 'overdue,at-risk')
const offset = computed(() => Number(text('offset')) || 0)
const opened = computed(() => text('order'))

const { answer, problem, loading, retry } = useAnswer<Due>(() => ({
  path: '/due',
  query: {
    to: text('to'),
    plan: text('plan'),
    after: text('after'),
    within: text('within'),
    period: text('period'),
    standing: standing.value === 'all' ? undefined : standing.value,
    offset: offset.value,
    limit: pageSize,
  },
}))

/** The words of the question that can be changed; a rule is a plan, or so many working days after ordered. */
const plans = computed(
  () => book?.value?.milestones.filter((m) => m.plan && m.first).map((m) => m.name) ?? [],
)
const reached = computed(
  () =>
    book?.value?.milestones
      .filter((m) => !m.plan && m.first && !['ordered', 'cancelled'].includes(m.name))
      .map((m) => m.name) ?? [],
)
const afterDays = ['1', '2', '3', '5', '8', '10', '15', '20']
const ruleNames = Object.fromEntries(afterDays.map((n) => [n, `${n} working days after ordered`]))
const rules = computed(() => [...plans.value, ...afterDays])
const rule = computed(
  () => text('after') || text('plan') || (answer.value?.to === 'delivered' ? 'expected' : 'promised'),
)
const ruleText = computed(() =>
  /^\d+$/.test(rule.value) ? `${rule.value} working days after ordered` : `the ${rule.value} day`,
)
const period = computed(() => text('period') || 'any time')
const within = computed(() => text('within') || '5')

function change(query: LocationQueryRaw) {
  router.push({ query: { ...route.query, offset: undefined, ...query } })
}

function pickRule(word: string) {
  const days = /^\d+$/.test(word)
  change({ after: days ? word : undefined, plan: days ? undefined : word })
}

/** What a number of the line lists. */
const behind = (state: string) => ({ query: { ...route.query, standing: state, offset: undefined } })
const shown = computed(() => answer.value?.standings.filter((s) => s.orders > 0) ?? [])
const tone = (state: string) => ({ overdue: 'late', 'at-risk': 'risk' })[state] ?? ''

/** Working days over the due day, in words: what is left is not late. */
function over(days: number | null): string {
  if (days === null) return ''
  if (days === 0) return '0'
  return days > 0 ? `${days} over` : `${-days} left`
}
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="answer">
      <h1 data-test="sentence">
        Which orders are due to be
        <WordPicker
          slot-name="to"
          :text="answer.to"
          :choices="reached"
          :chosen="answer.to"
          @pick="change({ to: $event, plan: undefined })"
        />
        at
        <WordPicker
          slot-name="period"
          :text="period"
          :choices="['any time', ...(book?.periods ?? [])]"
          :chosen="period"
          example="2026-11-02/2026-11-13"
          @pick="change({ period: $event === 'any time' ? undefined : $event })"
        />
        by
        <WordPicker
          slot-name="rule"
          :text="ruleText"
          :choices="rules"
          :names="ruleNames"
          :chosen="rule"
          example="12"
          @pick="pickRule"
        />, as of <span class="day">{{ withWeekday(answer.data_date) }}</span>, at risk when due within
        <WordPicker
          slot-name="within"
          :text="within"
          :choices="['0', '1', '2', '3', '5', '10']"
          :chosen="within"
          example="4"
          @pick="change({ within: $event })"
        />
        working days?
      </h1>
      <div class="standings" data-test="standings">
        <router-link
          v-for="s in shown"
          :key="s.state"
          :to="behind(s.state)"
          :class="['standing', 'panel', tone(s.state), { chosen: standing.split(',').includes(s.state) }]"
          :data-test="`standing-${s.state}`"
        >
          <b>{{ count(s.orders) }}</b> {{ s.label }}
        </router-link>
      </div>
      <p data-test="reconciliation">{{ answer.line }}</p>
      <p v-if="answer.placement_line" class="muted">{{ answer.placement_line }}</p>
      <p v-for="note in answer.notes" :key="note" class="amber">{{ note }}</p>
      <p class="selected" data-test="selected">
        Listed: {{ answer.selected }}, <b>{{ count(answer.all) }}</b>
        {{ answer.all === 1 ? 'order' : 'orders' }}, by due day
        <router-link v-if="standing !== 'overdue,at-risk'" class="other" :to="behind('')"
          >Late and at risk</router-link
        >
        <router-link v-if="standing !== 'all'" class="other" :to="behind('all')">All</router-link>
        <span class="other"><KeepView :sentence="answer.sentence" /></span>
      </p>
      <div class="scroll panel" tabindex="0" role="region" aria-label="Orders">
        <table class="plain" data-test="due">
          <thead>
            <tr>
              <th scope="col">number</th>
              <th scope="col">customer</th>
              <th scope="col">site</th>
              <th scope="col">ordered</th>
              <th scope="col">due</th>
              <th scope="col">{{ answer.to }}</th>
              <th class="number" scope="col">working days</th>
              <th scope="col">standing</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="o in answer.orders" :key="o.number">
              <td>
                <router-link :to="{ query: { ...route.query, order: o.number } }">{{ o.number }}</router-link>
              </td>
              <td>{{ o.fields['customer'] }}</td>
              <td>{{ o.fields['site'] }}</td>
              <td>{{ o.milestones['ordered'] }}</td>
              <td>{{ o.due ? withWeekday(o.due) : '' }}</td>
              <td>{{ o.milestones[answer.to] }}</td>
              <td class="number">
                {{ over(o.over)
                }}<span
                  v-if="o.holidays_unknown"
                  class="amber"
                  title="Holidays are not known for all of these days"
                  >?</span
                >
              </td>
              <td>{{ o.label }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="answer.all === 0" class="empty muted">No order has this standing.</p>
      </div>
      <PageTurner
        :offset="offset"
        :size="pageSize"
        :all="answer.all"
        @turn="change({ offset: $event || undefined })"
      />
    </template>
    <p v-else class="muted">Asking …</p>
    <OrderSheet
      v-if="opened"
      :key="opened"
      :number="opened"
      :question="{ to: answer?.to }"
      @close="change({ order: undefined, offset: offset || undefined })"
    />
  </div>
</template>

<style scoped>
.day {
  white-space: nowrap;
}

.standings {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-bottom: 14px;
}

.standing {
  padding: 8px 14px;
  color: inherit;
  text-decoration: none;
  font-size: 0.9rem;
}

.standing b {
  display: block;
  font-size: 1.25rem;
}

.late b {
  color: rgb(var(--v-theme-error));
}

.risk b {
  color: rgb(var(--v-theme-secondary));
}

.chosen {
  border-color: rgb(var(--v-theme-secondary));
  box-shadow: inset 0 -3px rgb(var(--v-theme-secondary));
}

.selected {
  margin: 16px 0 10px;
}

.other {
  margin-left: 10px;
}

.empty {
  padding: 24px;
}
</style>
