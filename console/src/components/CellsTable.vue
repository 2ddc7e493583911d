<script setup lang="ts">
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { Across, AcrossCell, AcrossFigure, AcrossHead, AcrossPart, AcrossRow } from '@/api/client'
import { behindWords, headName } from '@/charts/across'

// Rows by columns with their sums; cells are shaded within their row, their column or all, and open their orders.
const { answer, figure, part, behind, shade, blank } = defineProps<{
  answer: Across
  figure: AcrossFigure
  part: AcrossPart
  behind: (row: AcrossHead | undefined, column: AcrossHead | undefined) => RouteLocationRaw
  shade: 'all' | 'row' | 'column' | 'none'
  blank: boolean
}>()
const emit = defineEmits<{ sort: [by: string] }>()

const table = computed(() => part.tables[0])
const withBehind = (heads: readonly AcrossHead[]) => heads.some((h) => behindWords(h))
const seasons = computed(() => withBehind(part.columns))
const rowSeasons = computed(() => withBehind(table.value?.rows ?? []))
const withWhy = computed(() => table.value?.rows.some((r) => r.why))
const columns = computed(() => (answer.columns ? part.columns : []))

const values = (cells: readonly AcrossCell[]) => cells.flatMap((c) => c.value ?? [])
const range = (all: readonly number[]) => ({ low: Math.min(...all), high: Math.max(...all) })
const whole = computed(() => range(table.value?.rows.flatMap((r) => values(r.cells)) ?? []))
const ofColumn = computed(() =>
  part.columns.map((_, j) => range(table.value?.rows.flatMap((r) => r.cells[j]?.value ?? []) ?? [])),
)

/** Little is paper and much is amber, within what is compared; the number stands in the cell. */
function ground(row: AcrossRow, j: number): string | undefined {
  const value = row.cells[j]?.value
  if (value === null || value === undefined || shade === 'none') return undefined
  const { low, high } = {
    all: whole.value,
    row: range(values(row.cells)),
    column: ofColumn.value[j] ?? whole.value,
  }[shade]
  if (high <= low) return undefined
  const part = Math.round(((value - low) / (high - low)) * 42)
  return `color-mix(in srgb, rgb(var(--v-theme-secondary)) ${part}%, rgb(var(--v-theme-surface)))`
}

const shown = (c: AcrossCell | undefined) => (blank && c?.value === 0 ? '' : (c?.text ?? ''))
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" :aria-label="figure.words">
    <table
      class="plain crossed"
      :data-test="`cells-${figure.show}${part.currency ? `-${part.currency}` : ''}`"
    >
      <thead>
        <tr>
          <th scope="col">
            <button type="button" class="link" data-test="sort-name" @click="emit('sort', 'name')">
              {{ answer.rows || figure.words }}
            </button>
          </th>
          <th v-for="c in columns" :key="c.key" class="number" scope="col">
            <button type="button" class="link" :data-test="`sort-${c.key}`" @click="emit('sort', c.key)">
              {{ headName(c) }}
            </button>
          </th>
          <th class="number" scope="col">
            <button type="button" class="link" data-test="sort-total" @click="emit('sort', 'total')">
              all
            </button>
          </th>
          <th v-if="rowSeasons" scope="col">behind it</th>
          <th v-if="rowSeasons && figure.adds_up" class="number" scope="col">mean of each</th>
          <th v-if="withWhy" scope="col">nothing, because</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in table?.rows" :key="row.key + (row.others ?? '')">
          <th scope="row">{{ headName(row) }}</th>
          <td v-for="(c, j) in columns" :key="c.key" class="number" :style="{ background: ground(row, j) }">
            <router-link
              v-if="row.cells[j]?.value && shown(row.cells[j])"
              :to="behind(row, c)"
              data-test="cell"
              >{{ shown(row.cells[j]) }}</router-link
            >
            <template v-else>{{ shown(row.cells[j]) }}</template>
            <small v-if="row.cells[j]?.of"> {{ row.cells[j]?.of }}</small>
          </td>
          <td class="number sum">
            <router-link :to="behind(row, undefined)" data-test="row-sum">{{
              shown(row.total) || '–'
            }}</router-link>
            <small v-if="row.total.of"> {{ row.total.of }}</small>
          </td>
          <td v-if="rowSeasons" class="muted">{{ behindWords(row) }}</td>
          <td v-if="rowSeasons && figure.adds_up" class="number">{{ row.per_as }}</td>
          <td v-if="withWhy" class="muted">{{ row.why }}</td>
        </tr>
      </tbody>
      <tfoot v-if="table">
        <tr>
          <td>all</td>
          <td v-for="(c, j) in columns" :key="c.key" class="number">
            <router-link :to="behind(undefined, c)">{{ table.total.cells[j]?.text || '–' }}</router-link>
            <small v-if="table.total.cells[j]?.of"> {{ table.total.cells[j]?.of }}</small>
          </td>
          <td class="number">
            <router-link :to="behind(undefined, undefined)" data-test="sum">{{
              table.total.total.text || '–'
            }}</router-link>
            <small v-if="table.total.total.of"> {{ table.total.total.of }}</small>
          </td>
          <td v-if="rowSeasons" />
          <td v-if="rowSeasons && figure.adds_up" />
          <td v-if="withWhy" />
        </tr>
        <tr v-if="seasons" class="behind" data-test="behind">
          <td>behind it</td>
          <td v-for="c in columns" :key="c.key" class="number">{{ behindWords(c) }}</td>
          <td />
        </tr>
        <tr v-if="seasons && figure.adds_up" class="behind">
          <td>mean of each</td>
          <td v-for="c in columns" :key="c.key" class="number">{{ c.per_as }}</td>
          <td />
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
.sum {
  font-weight: 600;
}

.behind td {
  font-weight: 400 !important;
  white-space: normal !important;
  font-size: 0.82rem;
}

small {
  display: block;
  font-weight: 400;
  font-size: 0.78rem;
}
</style>
