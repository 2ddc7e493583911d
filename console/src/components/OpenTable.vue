<script setup lang="ts">
import { computed } from 'vue'
import type { Amount, Open, OpenPart, OpenRow } from '@/api/client'
import { count, keyName } from '@/format'
import { ordersBehind, type Question } from '@/question'

// What was open as rows that add up, of groups or of steps of time; each number opens its orders.
const { answer, part, question } = defineProps<{ answer: Open; part: OpenPart; question: Question }>()

const out = computed(() => answer.closing_day === 'out')
const columns = computed(() => [
  { what: 'at-start', name: 'open at start', of: (r: OpenRow) => r.at_start },
  { what: 'opened-in', name: '+ opened', of: (r: OpenRow) => r.opened },
  { what: 'closed-in', name: '− closed', of: (r: OpenRow) => r.closed },
  { what: 'at-end', name: '= open at end', of: (r: OpenRow) => r.at_end },
  { what: 'some-time', name: 'open at some time', of: (r: OpenRow) => r.some_time },
  ...(out.value
    ? [{ what: 'not-open', name: 'not open on closing day', of: (r: OpenRow) => r.not_open }]
    : []),
])

/** Without steps a row for each group and one for all; with steps one for each step of all. */
const rows = computed(() => {
  const all = part.rows.map((row) => ({ keys: [] as readonly string[], row }))
  if (answer.each) return all
  return [...part.groups.flatMap((g) => g.rows.map((row) => ({ keys: g.keys, row }))), ...all]
})
const names = (keys: readonly string[]) => (keys.length > 0 ? keys.map(keyName) : answer.by.map(() => 'all'))
const heads = computed(() => (answer.each ? [answer.each] : answer.by.length > 0 ? answer.by : ['orders']))

function behind(row: OpenRow, keys: readonly string[], open: string) {
  const period = answer.each ? `${row.from}/${row.to}` : question.period
  return ordersBehind(
    { ...question, period },
    { open, closing_day: out.value ? 'out' : undefined, group: keys },
  )
}

/** What an amount holds, each currency by itself. */
const holds = (a: Amount) =>
  [
    a.units === undefined ? '' : a.units === '' ? 'units not known' : `${a.units} units`,
    ...a.values.map((v) => `${v.value} ${v.currency || '(no currency)'}`),
  ].filter(Boolean)
</script>

<template>
  <div class="scroll panel rows" tabindex="0" role="region" aria-label="What was open">
    <table class="plain" data-test="open-rows">
      <thead>
        <tr>
          <th v-for="head in heads" :key="head" scope="col">{{ head }}</th>
          <th v-for="c in columns" :key="c.what" class="number" scope="col">{{ c.name }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="({ keys, row }, i) in rows" :key="i" :class="{ all: !answer.each && keys.length === 0 }">
          <template v-if="answer.each">
            <td>{{ row.name }}</td>
          </template>
          <template v-else-if="answer.by.length > 0">
            <td v-for="(name, k) in names(keys)" :key="k">{{ name }}</td>
          </template>
          <td v-else>all</td>
          <td v-for="c in columns" :key="c.what" class="number">
            <router-link :to="behind(row, keys, c.what)" :data-test="`open-${c.what}`">{{
              count(c.of(row).orders)
            }}</router-link>
            <small
              v-for="words in c.what === 'some-time' || c.what === 'not-open' ? [] : holds(c.of(row))"
              :key="words"
              >{{ words }}</small
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.rows {
  max-height: 70vh;
  overflow-y: auto;
}

thead th {
  position: sticky;
  top: 0;
  background: rgb(var(--v-theme-surface));
}

td {
  vertical-align: top;
}

small {
  display: block;
  color: rgb(var(--v-theme-muted));
  font-weight: 400;
}
</style>
