<script setup lang="ts">
import { computed } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'
import type { Orders } from '@/api/client'
import ConditionPicker from '@/components/ConditionPicker.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import PageTurner from '@/components/PageTurner.vue'
import StateNotice from '@/components/StateNotice.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count, length } from '@/format'
import { parameters, questionOf, selectionOf } from '@/question'

const pageSize = 50

const route = useRoute()
const router = useRouter()
const question = computed(() => questionOf(route.query))
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const sort = computed(() => text('sort') || 'number')
const offset = computed(() => Number(text('offset')) || 0)
const opened = computed(() => text('order'))

const { answer, problem, loading, retry } = useAnswer<Orders>(() => ({
  path: '/orders',
  query: {
    ...parameters(question.value),
    ...selectionOf(route.query),
    sort: sort.value,
    offset: offset.value,
    limit: pageSize,
  },
}))

const from = computed(() => question.value.from ?? 'ordered')
const to = computed(() => question.value.to ?? 'shipped')
const milestones = computed(() => [...new Set([from.value, 'promised', to.value])])
const columns = computed(() => [
  { key: 'number', name: 'number', number: false },
  { key: 'customer', name: 'customer', number: false },
  { key: 'site', name: 'site', number: false },
  ...milestones.value.map((m) => ({ key: m, name: m, number: false })),
  { key: 'length', name: answer.value?.heading ?? 'length', number: true },
  { key: '', name: 'state', number: false },
])

function change(query: LocationQueryRaw) {
  router.push({ query: { ...route.query, ...query } })
}

function where(condition: string) {
  change({ where: condition || undefined, offset: undefined })
}

/** The keys of the list, the first first; each may have a minus. */
const keys = computed(() => sort.value.split(','))

/** Sorts by a column, or turns it; with the shift key it joins the columns before. */
function sortBy(key: string, event: MouseEvent) {
  const turned = keys.value.includes(key) ? `-${key}` : key
  const others = event.shiftKey ? keys.value.filter((k) => k !== key && k !== `-${key}`) : []
  change({ sort: [...others, turned].join(','), offset: undefined })
}

function direction(key: string) {
  if (keys.value.includes(key)) return 'ascending'
  return keys.value.includes(`-${key}`) ? 'descending' : undefined
}

/** The direction, and the place among several keys. */
function arrow(key: string) {
  const at = keys.value.findIndex((k) => k === key || k === `-${key}`)
  if (at < 0) return ''
  return (keys.value[at] === key ? '↑' : '↓') + (keys.value.length > 1 ? String(at + 1) : '')
}
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <p v-if="problem && question.where">
      Change the condition: <ConditionPicker :text="question.where" @pick="where" />
    </p>
    <template v-else-if="!problem && answer">
      <h1 data-test="sentence">{{ answer.sentence }}</h1>
      <p class="selected" data-test="selected">
        {{ answer.selected }}: <b>{{ count(answer.all) }}</b> orders
        <router-link :to="{ path: '/how-long', query: { ...parameters(question) } }"
          >How long they took</router-link
        >
        <template v-if="question.where"> · where </template>
        <ConditionPicker :text="question.where ?? ''" @pick="where" />
      </p>
      <div class="scroll panel" tabindex="0" role="region" aria-label="Orders">
        <table class="plain" data-test="orders">
          <thead>
            <tr>
              <th
                v-for="c in columns"
                :key="c.name"
                scope="col"
                :class="{ number: c.number }"
                :aria-sort="c.key ? direction(c.key) : undefined"
              >
                <button
                  v-if="c.key"
                  type="button"
                  title="With shift, sorts within the columns before"
                  @click="sortBy(c.key, $event)"
                >
                  {{ c.name }} <span aria-hidden="true">{{ arrow(c.key) }}</span>
                </button>
                <template v-else>{{ c.name }}</template>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="o in answer.orders" :key="o.number" :class="{ opened: o.number === opened }">
              <td>
                <router-link :to="{ query: { ...route.query, order: o.number } }">{{ o.number }}</router-link>
              </td>
              <td>{{ o.fields['customer'] }}</td>
              <td>{{ o.fields['site'] }}</td>
              <td v-for="m in milestones" :key="m">{{ o.milestones[m] }}</td>
              <td class="number">
                {{ length(o.length)
                }}<span
                  v-if="o.holidays_unknown"
                  class="amber"
                  title="Holidays are not known for all of these days"
                  >?</span
                >
              </td>
              <td>{{ o.state_label }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="answer.all === 0" class="empty muted">No order is in this selection.</p>
      </div>
      <PageTurner
        :offset="offset"
        :size="pageSize"
        :all="answer.all"
        @turn="change({ offset: $event || undefined })"
      />
    </template>
    <p v-else class="muted">Looking them up …</p>
    <OrderSheet
      v-if="opened"
      :key="opened"
      :number="opened"
      :question="question"
      @close="change({ order: undefined })"
    />
  </div>
</template>

<style scoped>
h1 {
  font-size: 1.3rem;
  line-height: 1.5;
  font-weight: 500;
  margin-bottom: 8px;
}

.selected {
  margin-bottom: 16px;
}

.selected::first-letter {
  text-transform: uppercase;
}

.opened {
  background: rgb(var(--v-theme-background));
}

th button {
  font: inherit;
  color: inherit;
}

.empty {
  padding: 24px;
}
</style>
