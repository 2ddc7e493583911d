<script setup lang="ts">
import { computed } from 'vue'
import type { Group, Took, TookPart } from '@/api/client'
import { count, figure, keysOf } from '@/format'
import { legOf, ordersBehind, type Question } from '@/question'
import LengthCount from './LengthCount.vue'

// The statistics by group, longest first; each number of orders opens them. Of a chain, each leg has a row of its own.
const { answer, part, question } = defineProps<{ answer: Took; part: TookPart; question: Question }>()

const chain = computed(() => part.legs.length > 0)
/** Kinds of orders that are left out; of a chain their words differ from leg to leg. */
const left = computed(() =>
  part.total.reconciliation
    .map((r, i) => ({ ...r, i }))
    .filter((r) => r.i > 0 && (chain.value ? ['running', 'cancelled'].includes(r.state) : r.orders > 0)),
)
const labels = computed(() => [
  ...(answer.by.length > 0 || chain.value ? answer.by : ['orders']),
  ...(chain.value ? ['leg'] : []),
])
/** Each leg of a chain has its own name. */
const heading = computed(() =>
  chain.value ? answer.heading.replace(`${answer.from} → ${answer.to}, `, '') : answer.heading,
)
const inTime = computed(() => part.groups.some((g) => g.step && g.running !== part.total.running))
/** How many columns follow those of the lengths. */
const beside = computed(
  () =>
    left.value.length +
    (inTime.value ? 1 : 0) +
    (part.total.holidays_unknown ? 1 : 0) +
    (chain.value ? 2 : 0),
)

interface Row {
  names: string[]
  group: Group
  question: Question
}

/** A group's rows: one for each leg of a chain, and one for the whole. */
function rowsOf(whole: Group, legs: readonly { from: string; to: string; group: Group }[]): Row[] {
  const names = whole.keys.length > 0 ? keysOf(whole) : answer.by.map(() => 'all')
  if (names.length === 0 && !chain.value) names.push('all')
  return [
    ...legs.map((l) => ({
      names: [...names, `${l.from} → ${l.to}`],
      group: { ...l.group, keys: whole.keys },
      question: legOf(question, answer, l),
    })),
    { names: chain.value ? [...names, `${answer.from} → ${answer.to}`] : names, group: whole, question },
  ]
}

const rows = computed(() =>
  part.groups.flatMap((g, i) =>
    rowsOf(
      g,
      part.legs.flatMap((l) => (l.groups[i] ? [{ ...l, group: l.groups[i] }] : [])),
    ),
  ),
)
const totals = computed(() =>
  rowsOf(
    part.total,
    part.legs.map((l) => ({ ...l, group: l.total })),
  ),
)

const behind = (row: Row, state?: string) => ordersBehind(row.question, { state, group: row.group.keys })
const unknown = (row: Row) => ordersBehind(row.question, { note: 'holidays-unknown', group: row.group.keys })
const everyLeg = (row: Row) => ordersBehind(question, { state: 'every-leg', group: row.group.keys })
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Lengths by group">
    <table class="plain" data-test="groups">
      <thead>
        <tr>
          <th :colspan="labels.length + 2" />
          <th class="heading" :colspan="answer.show.length" scope="colgroup" data-test="heading">
            {{ heading }}
          </th>
          <th v-if="beside > 0" :colspan="beside" />
        </tr>
        <tr>
          <th v-for="label in labels" :key="label" scope="col">{{ label }}</th>
          <th class="number" scope="col">asked</th>
          <th class="number" scope="col">n</th>
          <th v-for="name in answer.show" :key="name" class="number" scope="col">
            {{ name.replace('-', ' ') }}
          </th>
          <th v-for="r in left" :key="r.state" class="number" scope="col">{{ r.label }}</th>
          <th v-if="inTime" class="number" scope="col">still running %</th>
          <th v-if="chain" class="number" scope="col">n, every leg complete</th>
          <th v-if="chain" class="number" scope="col">mean, every leg complete</th>
          <th v-if="part.total.holidays_unknown" class="number" scope="col">holidays unknown</th>
        </tr>
      </thead>
      <component :is="i === 0 ? 'tbody' : 'tfoot'" v-for="(body, i) in [rows, totals]" :key="i">
        <tr v-for="row in body" :key="row.names.join('\n')">
          <td v-for="(name, at) in row.names" :key="at">{{ name }}</td>
          <td class="number">
            <router-link :to="behind(row)">{{ count(row.group.asked) }}</router-link>
          </td>
          <td class="number">
            <LengthCount :group="row.group" :few="answer.few" :to="behind(row, 'counted')" />
          </td>
          <td v-for="(name, at) in answer.show" :key="name" class="number">
            {{ figure(name, row.group.figures[at] ?? null) }}
          </td>
          <td v-for="r in left" :key="r.state" class="number">
            <router-link v-if="row.group.reconciliation[r.i]?.orders" :to="behind(row, r.state)">{{
              count(row.group.reconciliation[r.i]!.orders)
            }}</router-link>
            <span v-else class="muted">0</span>
          </td>
          <td v-if="inTime" class="number">{{ row.group.running }}</td>
          <template v-if="chain">
            <td class="number">
              <router-link :to="everyLeg(row)">{{ count(row.group.every_leg?.n ?? 0) }}</router-link>
            </td>
            <td class="number">{{ figure('mean', row.group.every_leg?.mean ?? null) }}</td>
          </template>
          <td v-if="part.total.holidays_unknown" class="number">
            <router-link v-if="row.group.holidays_unknown" :to="unknown(row)">{{
              count(row.group.holidays_unknown)
            }}</router-link>
            <span v-else class="muted">0</span>
          </td>
        </tr>
      </component>
    </table>
  </div>
</template>

<style scoped>
.heading {
  text-align: right !important;
  border-bottom: 1px solid rgb(var(--v-theme-line)) !important;
}

tfoot tr:not(:last-child) td {
  font-weight: 400;
}

tfoot tr:not(:first-child) td {
  border-top-color: rgb(var(--v-theme-line));
}

thead tr:first-child th {
  border-bottom-color: transparent;
  padding-bottom: 0.2rem;
}
</style>
