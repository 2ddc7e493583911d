<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { type Column, namesOf, numeric, type Row, shownText, type Table } from '@/api/document'
import { useOrderLinks } from '@/composables/useOrderLinks'
import { count, shortMonth } from '@/format'

const GridTable = defineAsyncComponent(() => import('./GridTable.vue'))

// A table of an answer: typed columns, heads that neighbours share, and the orders behind each number.
const { table, label, columns, ground } = defineProps<{
  table: Table
  /** What it is, where it has no title. */
  label: string
  /** The columns of the lists that its numbers open; the usual ones where it says none. */
  columns?: string
  /** Its heads sort it. */
  sorts?: boolean
  /** The ground of a cell, by its column. */
  ground?: (row: Row, column: Column, at: number) => string | undefined
}>()
const emit = defineEmits<{ open: [order: string]; sort: [column: string] }>()

const { hrefOf, follow } = useOrderLinks(() => columns)

/** Texts that are long go on in the next line. */
const long = computed(() =>
  table.columns.map(
    (c, i) => c.kind === 'text' && table.rows.some((r) => (r.cells[i]?.text.length ?? 0) > 60),
  ),
)
const shown = computed(() => table.columns.map((c, i) => ({ ...c, i })).filter((c) => !c.folded))
const names = computed(() => namesOf(table).length)

/** A table with more cells is drawn as far as one looks at it. */
const mostCells = 2500

/** The heads that neighbours share, each over its columns. */
const shared = computed(() => {
  const heads: { text: string; span: number }[] = []
  for (const { shared: text = '' } of shown.value) {
    const last = heads.at(-1)
    if (last?.text === text) last.span++
    else heads.push({ text, span: 1 })
  }
  return heads.some((h) => h.text) ? heads : []
})
const only = computed(() => table.rows.length === 0 && table.all === 0)
const bodies = computed<{ rows: readonly Row[]; total: boolean }[]>(() =>
  only.value
    ? [{ rows: table.totals, total: false }]
    : [
        { rows: table.rows, total: false },
        { rows: table.totals, total: true },
      ],
)
</script>

<template>
  <GridTable
    v-if="table.rows.length * shown.length > mostCells"
    :table="table"
    :label="label"
    :columns="columns"
    :ground="ground"
  />
  <div v-else>
    <div class="scroll panel" tabindex="0" role="region" :aria-label="table.title ?? label" @click="follow">
      <table class="plain" :class="{ many: shown.length > 10 }" :data-test="table.code">
        <caption v-if="table.title">
          {{
            table.title
          }}
        </caption>
        <thead>
          <tr v-if="shared.length > 0">
            <th
              v-for="(head, i) in shared"
              :key="i"
              class="shared"
              :colspan="head.span"
              scope="colgroup"
              :data-test="head.text ? 'heading' : undefined"
            >
              {{ head.text }}
            </th>
          </tr>
          <tr>
            <th v-for="c in shown" :key="c.code" :class="{ number: numeric(c) }" scope="col">
              <v-btn
                v-if="sorts"
                class="sorts"
                size="small"
                :data-test="`sort-${c.code}`"
                @click="emit('sort', c.code)"
                >{{ shortMonth(c.heading) }}</v-btn
              >
              <template v-else>{{ shortMonth(c.heading) }}</template>
            </th>
          </tr>
        </thead>
        <tbody v-for="body in bodies" :key="String(body.total)">
          <tr v-for="(row, r) in body.rows" :key="r" :class="{ all: body.total }">
            <component
              :is="c.i < names ? 'th' : 'td'"
              v-for="c in shown"
              :key="c.code"
              :class="{ number: numeric(c), name: c.i < names, long: long[c.i] }"
              :scope="c.i < names ? 'row' : undefined"
              :style="{ background: body.total ? undefined : ground?.(row, c, c.i) }"
            >
              <a v-if="row.cells[c.i]?.behind" :href="hrefOf(row.cells[c.i]?.behind)" :data-test="c.code">{{
                shownText(row, c, c.i)
              }}</a>
              <v-btn
                v-else-if="c.kind === 'order'"
                size="small"
                @click="emit('open', row.cells[c.i]?.text ?? '')"
                >{{ shownText(row, c, c.i) }}</v-btn
              >
              <template v-else>{{ shownText(row, c, c.i) }}</template>
            </component>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="table.rows.length < table.all && !table.offset" class="muted">
      The first {{ count(table.rows.length) }} of {{ count(table.all) }} rows; a file has all.
    </p>
  </div>
</template>

<style scoped>
caption {
  text-align: left;
  padding: 12px 0.75rem 4px;
  font-size: 1.05rem;
  font-weight: 500;
}

th.name {
  color: inherit;
  font-weight: inherit;
  border-bottom: 0;
  vertical-align: middle;
}

tbody tr + tr th.name {
  border-top: 1px solid rgb(var(--v-theme-line));
}

tbody + tbody tr.all > * {
  font-weight: 600;
  border-top: 1px solid rgb(var(--v-theme-muted));
}

tbody + tbody tr.all + tr.all > * {
  border-top-color: rgb(var(--v-theme-line));
}

.many :is(td, th) {
  padding-left: 5px;
  padding-right: 7px;
  font-size: 0.86rem;
}

td[style*='background'] a {
  color: inherit;
}

.long {
  white-space: normal !important;
  min-width: 14rem;
  max-width: 30rem;
}

th.shared {
  text-align: right;
  border-bottom: 0;
  font-style: italic;
}
</style>
