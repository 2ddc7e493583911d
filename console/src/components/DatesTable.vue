<script setup lang="ts">
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { Across, AcrossCell, AcrossFigure, AcrossHead, AcrossPart, AcrossTable } from '@/api/client'
import { headName } from '@/charts/across'
import { withWeekday } from '@/format'

// One figure by each of its dates: a row for each step, with the difference to the first date. Each number opens its orders.
const { answer, figure, part, behind } = defineProps<{
  answer: Across
  figure: AcrossFigure
  part: AcrossPart
  behind: (row: AcrossHead | undefined, basis: string) => RouteLocationRaw
}>()

const first = computed(() => part.tables[0])
const withWhy = computed(() => first.value?.rows.some((r) => r.why))
const nameOf = (h: AcrossHead) => (answer.each === 'day' && h.from ? withWeekday(h.from) : headName(h))

const decimalsOf = (c: AcrossCell) => c.text.split('.')[1]?.length ?? 0
/** How much more than by the first date, in its decimals. */
function difference(c: AcrossCell | undefined, to: AcrossCell | undefined): string {
  if (!c || !to || c.value === null || to.value === null) return ''
  const places = Math.max(decimalsOf(c), decimalsOf(to))
  const n = c.value - to.value
  const text = new Intl.NumberFormat('en', {
    minimumFractionDigits: places,
    maximumFractionDigits: places,
  }).format(n)
  return n > 0 ? `+${text}` : text.replace('-', '−')
}
const cellOf = (table: AcrossTable, i: number) => (i < 0 ? table.total.total : table.rows[i]?.total)
const lines = computed(() => [
  ...(first.value?.rows.map((row, i) => ({ row, i })) ?? []),
  { row: undefined, i: -1 },
])
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" :aria-label="figure.words">
    <table class="plain" :data-test="`dates-${figure.show}${part.currency ? `-${part.currency}` : ''}`">
      <thead>
        <tr>
          <th scope="col">{{ answer.each || answer.rows || '' }}</th>
          <template v-for="(table, k) in part.tables" :key="table.basis">
            <th class="number" scope="col">
              {{ table.words }}{{ part.currency ? `, ${part.currency}` : '' }}
            </th>
            <th v-if="k > 0 && figure.adds_up" class="number muted" scope="col">less {{ first?.basis }}</th>
          </template>
          <th v-if="withWhy" scope="col">nothing, because</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="{ row, i } in lines" :key="i" :class="{ all: i < 0 }">
          <td>{{ row ? nameOf(row) : 'all' }}</td>
          <template v-for="(table, k) in part.tables" :key="table.basis">
            <td class="number">
              <router-link
                v-if="cellOf(table, i)?.value"
                :to="behind(row, table.basis)"
                :data-test="`of-${table.basis}`"
                >{{ cellOf(table, i)?.text }}</router-link
              >
              <template v-else>{{ cellOf(table, i)?.text }}</template>
              <small v-if="cellOf(table, i)?.of" class="muted"> {{ cellOf(table, i)?.of }}</small>
            </td>
            <td v-if="k > 0 && figure.adds_up" class="number muted">
              {{ difference(cellOf(table, i), first && cellOf(first, i)) }}
            </td>
          </template>
          <td v-if="withWhy" class="muted">{{ row?.why }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
small {
  display: block;
}
</style>
