<script setup lang="ts">
import type { Load } from '@/api/client'
import { count } from '@/format'

type Column = NonNullable<Load['columns']>[number]

// What the columns of a file are taken for; each can be given another meaning.
const { columns, names } = defineProps<{ columns: readonly Column[]; names: readonly string[] }>()
const emit = defineEmits<{
  mean: [heading: string, meaning: string]
  plan: [heading: string, plan: boolean]
}>()

/** Whether a column holds dates of the user's own, which can be plans. */
const ownDates = (column: Column) => /^dates(,|$)/.test(column.form)
const planned = (column: Column) => column.form.startsWith('dates, a plan')

const leftOut = { title: 'not read', value: 'left-out' }
const choices = () => [leftOut, ...names.map((value) => ({ title: value.replace(/-/g, ' '), value }))]

function choose(column: Column, choice: unknown) {
  const value = typeof choice === 'string' ? choice : (choice as { value?: string } | null)?.value
  if (value && value !== (column.means || leftOut.value)) {
    emit('mean', column.heading, value)
  }
}

const shown = (column: Column) =>
  column.means ? { title: column.means.replace(/-/g, ' '), value: column.means } : leftOut
</script>

<template>
  <v-table density="compact" class="columns" data-test="columns">
    <thead>
      <tr>
        <th>heading</th>
        <th>taken for</th>
        <th>form</th>
        <th class="number">filled</th>
        <th class="number">not understood</th>
        <th>such as</th>
        <th>why</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="c in columns" :key="c.heading" :class="{ muted: !c.means }">
        <th scope="row">{{ c.heading || '(no heading)' }}</th>
        <td>
          <v-combobox
            :model-value="shown(c)"
            :items="choices()"
            :aria-label="`What ${c.heading} is taken for`"
            density="compact"
            variant="underlined"
            hide-details
            @update:model-value="choose(c, $event)"
          />
        </td>
        <td>
          <v-checkbox-btn
            v-if="ownDates(c)"
            :model-value="planned(c)"
            label="planned dates"
            density="compact"
            :data-test="`plan-${c.heading}`"
            @update:model-value="emit('plan', c.heading, !!$event)"
          />
          {{ c.form.replace(/^dates(, a plan)?(, )?/, '') }}
        </td>
        <td class="number">{{ count(c.filled) }} of {{ count(c.rows) }}</td>
        <td class="number" :class="{ amber: c.not_understood > 0 }">{{ count(c.not_understood) }}</td>
        <td class="samples" :title="c.samples.join(' · ')">{{ c.samples.join(' · ') }}</td>
        <td>{{ c.why }}</td>
      </tr>
    </tbody>
  </v-table>
</template>

<style scoped>
.columns th,
.columns td {
  text-align: left;
  vertical-align: middle;
}

.columns .number {
  text-align: right;
  white-space: nowrap;
}

.columns th.number {
  white-space: normal;
}

.columns .samples {
  max-width: 13rem;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.columns td:last-child {
  min-width: 12rem;
}

.columns th,
.columns td {
  padding-inline: 8px;
}

.columns td:nth-child(2) {
  min-width: 11rem;
}
</style>
