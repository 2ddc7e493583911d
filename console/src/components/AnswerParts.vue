<script setup lang="ts">
import { computed } from 'vue'
import { type Column, type Document, ordersBehind, type Part, type Row, type Table } from '@/api/document'
import AnswerLines from './AnswerLines.vue'
import AnswerTable from './AnswerTable.vue'

// The parts of an answer: for each its picture, its tables, the lines that add up, and the notes.
const { document } = defineProps<{
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
/** Periods side by side come first. */
const ordered = computed(() => {
  const beside = document.parts.filter((p) => p.tables[0]?.code === 'periods')
  return [...beside, ...document.parts.filter((p) => !beside.includes(p))]
})

/** The first table stands by itself; each other can be folded. */
const first = (part: Part) => part.tables.findIndex((t) => !t.picture && !t.folded)
const emit = defineEmits<{ open: [order: string]; sort: [column: string] }>()
defineSlots<{
  picture?: (props: { part: Part }) => unknown
  /** Above a table. */
  above?: (props: { part: Part; table: Table }) => unknown
}>()
</script>

<template>
  <section v-for="(part, i) in ordered" :key="i">
    <h2 v-if="part.title">{{ part.title }}</h2>
    <slot v-if="part.tables[0]?.code !== 'periods'" name="picture" :part="part" />
    <template v-for="(table, n) in part.tables" :key="table.code">
      <slot name="above" :part="part" :table="table" />
      <AnswerTable
        v-if="!table.picture && !table.folded && n === first(part)"
        class="table"
        :table="table"
        :label="label"
        :columns="columns"
        :sorts="sorts?.includes(table.code)"
        :ground="ground && ((row, column, at) => ground?.(table, row, column, at))"
        @open="emit('open', $event)"
        @sort="emit('sort', $event)"
      />
      <v-expansion-panels
        v-else-if="!table.picture || table.folded"
        class="table"
        :model-value="table.folded ? [] : [table.code]"
        multiple
      >
        <v-expansion-panel
          :value="table.code"
          :title="table.title ?? 'As a list'"
          :data-test="`fold-${table.code}`"
        >
          <v-expansion-panel-text>
            <AnswerTable
              :table="{ ...table, title: undefined }"
              :label="table.title ?? label"
              :columns="columns"
              :ground="ground && ((row, column, at) => ground?.(table, row, column, at))"
              @open="emit('open', $event)"
            />
          </v-expansion-panel-text>
        </v-expansion-panel>
      </v-expansion-panels>
    </template>
    <AnswerLines :part="part" :to="(address) => ordersBehind(address, columns)" />
  </section>
</template>

<style scoped>
.table {
  margin-bottom: 20px;
}
</style>
