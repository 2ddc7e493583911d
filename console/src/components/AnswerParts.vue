<script setup lang="ts">
import { type Column, type Document, ordersBehind, type Part, type Row, type Table } from '@/api/document'
import AnswerTable from './AnswerTable.vue'

// The parts of an answer: for each its picture, its tables, the lines that add up, and the notes.
defineProps<{
  document: Document
  /** What its tables are. */
  label: string
  /** The columns of the lists that its numbers open. */
  columns?: string
  /** The tables whose heads sort them, by their codes. */
  sorts?: readonly string[]
  /** The ground of a cell. */
  ground?: (table: Table, row: Row, column: Column, at: number) => string | undefined
}>()
const emit = defineEmits<{ open: [order: string]; sort: [column: string] }>()
defineSlots<{
  picture?: (props: { part: Part }) => unknown
  /** Above a table. */
  above?: (props: { part: Part; table: Table }) => unknown
}>()

/** The signs between terms, which amounts can have as well. */
const sign = (amount: string | undefined) => (amount?.startsWith('-') ? ' − ' : ' + ')
const bare = (term: { amount?: string; orders: number }) =>
  (term.amount ?? term.orders.toLocaleString('en')).replace('-', '')
</script>

<template>
  <section v-for="(part, i) in document.parts" :key="i">
    <h2 v-if="part.title">{{ part.title }}</h2>
    <slot name="picture" :part="part" />
    <template v-for="table in part.tables" :key="table.code">
      <slot name="above" :part="part" :table="table" />
      <details v-if="table.folded" class="panel fold" :data-test="`fold-${table.code}`">
        <summary>{{ table.title ?? 'As a list' }}</summary>
        <AnswerTable
          :table="{ ...table, title: undefined }"
          :label="label"
          :columns="columns"
          @open="emit('open', $event)"
        />
      </details>
      <AnswerTable
        v-else-if="!table.picture"
        class="table"
        :table="table"
        :label="label"
        :columns="columns"
        :sorts="sorts?.includes(table.code)"
        :ground="ground && ((row, column, at) => ground?.(table, row, column, at))"
        @open="emit('open', $event)"
        @sort="emit('sort', $event)"
      />
    </template>
    <div class="below">
      <p v-for="(line, l) in part.lines" :key="l" :data-test="l === 0 ? 'reconciliation' : 'placement'">
        {{ line.text.split(' = ')[0] }} =
        <template v-for="(term, t) in line.terms.slice(1)" :key="t"
          >{{ t > 0 ? sign(term.amount) : ''
          }}<router-link
            v-if="term.behind"
            :to="ordersBehind(term.behind, columns) ?? {}"
            :data-test="`term-${l}-${t}`"
            >{{ bare(term) }}</router-link
          ><template v-else>{{ bare(term) }}</template> {{ term.label }}</template
        >
      </p>
      <p v-for="note in part.notes" :key="note.code" class="amber" :data-test="`says-${note.code}`">
        <router-link
          v-if="note.behind"
          :data-test="`note-${note.code}`"
          :to="ordersBehind(note.behind, columns) ?? {}"
          >{{ note.text }}</router-link
        >
        <template v-else>{{ note.text }}</template>
      </p>
    </div>
  </section>
</template>

<style scoped>
.table {
  margin-bottom: 20px;
}

.fold {
  margin-bottom: 20px;
  padding: 10px 16px;
}

summary {
  cursor: pointer;
}

.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}
</style>
