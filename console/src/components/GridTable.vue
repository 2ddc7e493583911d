<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, useTemplateRef, watch } from 'vue'
import { type Column, namesOf, numeric, type Row, shownText, type Table } from '@/api/document'
import { shortMonth } from '@/format'
import { useOrderLinks } from '@/composables/useOrderLinks'
import { usePrinting } from '@/composables/usePrinting'

// A table too large for the page: only the rows and columns that are looked at are in it. Printed, it has all its rows.
const { table, label, columns, ground } = defineProps<{
  table: Table
  label: string
  /** The columns of the lists that its numbers open. */
  columns?: string
  /** The ground of a cell, by its column. */
  ground?: (row: Row, column: Column, at: number) => string | undefined
}>()

const { hrefOf, follow } = useOrderLinks(() => columns)

const rowHeight = 34
/** How many rows say how wide the columns are. */
const sample = 200

const box = useTemplateRef<HTMLElement>('box')
const printing = usePrinting()
const shown = computed(() => table.columns.map((c, i) => ({ ...c, i })).filter((c) => !c.folded))
const names = computed(() => shown.value.slice(0, namesOf(table).length))
const values = computed(() => shown.value.slice(names.value.length))
const rows = computed(() => [...table.rows, ...table.totals])
/** The width of columns in which the longest text of the first rows has room, between two bounds. */
function widthOf(columns: readonly { i: number }[], least: number, most: number): number {
  let longest = 0
  for (const row of rows.value.slice(0, sample))
    for (const { i } of columns) longest = Math.max(longest, row.cells[i]?.text.length ?? 0)
  return Math.min(most, Math.max(least, longest * 9 + 24))
}
const nameWidth = computed(() => widthOf(names.value, 176, 420))
const columnWidth = computed(() => widthOf(values.value, 104, 220))
const left = computed(() => names.value.length * nameWidth.value)

const down = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => box.value,
    estimateSize: () => rowHeight,
    overscan: printing.value ? rows.value.length : 8,
    scrollPaddingStart: rowHeight,
  })),
)
const across = useVirtualizer(
  computed(() => ({
    horizontal: true,
    count: values.value.length,
    getScrollElement: () => box.value,
    estimateSize: () => columnWidth.value,
    overscan: 3,
    scrollPaddingStart: left.value,
  })),
)
watch(columnWidth, () => across.value.measure())
interface Across {
  column: Column & { i: number }
  index: number
  start: number
  end: number
}
/** They stay the same while one scrolls down, so that rows which are there already are not drawn again. */
const cells = computed<Across[]>((old) => {
  const next = across.value.getVirtualItems().flatMap(({ index, start, end }) => {
    const column = values.value[index]
    return column ? [{ column, index, start, end }] : []
  })
  const same = (of: Across | undefined, other: Across | undefined) => of?.column === other?.column
  return old && old.length === next.length && same(old[0], next[0]) && same(old.at(-1), next.at(-1))
    ? old
    : next
})
const before = computed(() => cells.value[0]?.start ?? 0)
const after = computed(() => values.value.length * columnWidth.value - (cells.value.at(-1)?.end ?? 0))
const lines = computed(() =>
  down.value.getVirtualItems().flatMap(({ index, start, end }) => {
    const row = rows.value[index]
    return row ? [{ row, index, start, end }] : []
  }),
)
const above = computed(() => lines.value[0]?.start ?? 0)
const below = computed(() => rows.value.length * rowHeight - (lines.value.at(-1)?.end ?? 0))
const shared = computed(() => [...new Set(shown.value.flatMap((c) => c.shared ?? []))].join('; '))
</script>

<template>
  <div>
    <p v-if="table.title ?? shared" class="muted">{{ [table.title, shared].filter(Boolean).join(': ') }}</p>
    <div
      ref="box"
      class="box panel scroll"
      :style="{ height: `${Math.min(700, (rows.length + 1) * rowHeight + 20)}px` }"
      tabindex="0"
      role="region"
      :aria-label="table.title ?? label"
      @click="follow"
    >
      <table
        :data-test="table.code"
        :aria-rowcount="rows.length + 1"
        :aria-colcount="shown.length"
        :style="{ width: `${left + values.length * columnWidth}px` }"
      >
        <colgroup>
          <col v-for="c in names" :key="c.code" :style="{ width: `${nameWidth}px` }" />
          <col v-if="before" :style="{ width: `${before}px` }" />
          <col v-for="c in cells" :key="c.column.code" :style="{ width: `${columnWidth}px` }" />
          <col v-if="after" :style="{ width: `${after}px` }" />
        </colgroup>
        <thead>
          <tr aria-rowindex="1">
            <th
              v-for="(c, i) in names"
              :key="c.code"
              scope="col"
              class="name"
              :style="{ left: `${i * nameWidth}px` }"
            >
              {{ shortMonth(c.heading) }}
            </th>
            <td v-if="before" aria-hidden="true" />
            <th
              v-for="c in cells"
              :key="c.column.code"
              scope="col"
              :class="{ number: numeric(c.column) }"
              :aria-colindex="names.length + c.index + 1"
              :title="c.column.heading"
            >
              {{ shortMonth(c.column.heading) }}
            </th>
            <td v-if="after" aria-hidden="true" />
          </tr>
        </thead>
        <tbody>
          <tr v-if="above" aria-hidden="true" :style="{ height: `${above}px` }">
            <td :colspan="names.length + cells.length + 2" />
          </tr>
          <tr
            v-for="l in lines"
            :key="l.index"
            v-memo="[l.row, cells, names, ground, columns]"
            :aria-rowindex="l.index + 2"
            :class="{ all: l.index >= table.rows.length }"
          >
            <th
              v-for="(c, i) in names"
              :key="c.code"
              scope="row"
              class="name"
              :style="{ left: `${i * nameWidth}px` }"
              :title="shownText(l.row, c, c.i)"
            >
              {{ shownText(l.row, c, c.i) }}
            </th>
            <td v-if="before" aria-hidden="true" />
            <td
              v-for="{ column: c, index } in cells"
              :key="c.code"
              :class="{ number: numeric(c) }"
              :aria-colindex="names.length + index + 1"
              :style="{ background: ground?.(l.row, c, c.i) }"
            >
              <a v-if="l.row.cells[c.i]?.behind" :href="hrefOf(l.row.cells[c.i]?.behind)">{{
                shownText(l.row, c, c.i)
              }}</a>
              <template v-else>{{ shownText(l.row, c, c.i) }}</template>
            </td>
            <td v-if="after" aria-hidden="true" />
          </tr>
          <tr v-if="below" aria-hidden="true" :style="{ height: `${below}px` }">
            <td :colspan="names.length + cells.length + 2" />
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.box {
  overflow: auto;
  overflow-anchor: none;
}

table {
  border-collapse: separate;
  border-spacing: 0;
  table-layout: fixed;
  font-size: 0.86rem;
}

th,
td {
  height: 34px;
  padding: 0 8px;
  box-sizing: border-box;
  overflow: hidden;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-weight: inherit;
  border-bottom: 1px solid rgb(var(--v-theme-line));
}

[aria-hidden='true'],
[aria-hidden='true'] td {
  padding: 0;
  border: 0;
}

.number {
  text-align: right;
}

thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  background: rgb(var(--v-theme-surface));
  color: rgb(var(--v-theme-muted));
}

.name {
  position: sticky;
  background: rgb(var(--v-theme-surface));
}

thead .name {
  z-index: 2;
}

.all > * {
  font-weight: 600;
}

td[style*='background'] a {
  color: inherit;
}
</style>
