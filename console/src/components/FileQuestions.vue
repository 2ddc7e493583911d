<script setup lang="ts">
import type { FileQuestion } from '@/api/client'
import { keyOf, type Look, questionsOf } from '@/composables/useLoad'

// What a file leaves open, each question with its answers to pick from.
defineProps<{ look: Look }>()
const emit = defineEmits<{ answer: [question: FileQuestion, value: string] }>()

const labels: Record<string, (q: FileQuestion) => string> = {
  map: (q) => (q.column ? `What “${q.column}” means` : 'The column with the order numbers'),
  plan: (q) => `“${q.column}”: planned dates, or dates on which something happened?`,
  dates: (q) => `How the dates of “${q.column}” are written`,
  decimals: (q) => `Decimal mark of “${q.column}”`,
  not_known: () => 'Cells that say that nothing is known',
  rows: () => 'What one row is',
  currency: () => 'Currency',
  calendar_of: (q) => `Whose holidays “${q.column}” are`,
  observances: () => 'Observances',
}

const words: Record<string, Record<string, string>> = {
  map: { 'left-out': 'do not read it' },
  plan: { plan: 'planned dates', fact: 'dates on which something happened' },
  dates: {
    'day-first': 'day first: 04/07/2026 is 4 July',
    'month-first': 'month first: 04/07/2026 is 7 April',
    'year-first': 'year first: 26/07/04 is 4 July 2026',
  },
  decimals: { point: 'a point: 1.234 is less than 2', comma: 'a comma: 1.234 is 1234' },
  not_known: { none: 'No, they are meant as they stand' },
  rows: {
    lines: 'a line of an order',
    orders: 'an order',
    'order-lines': 'a line of an order',
    shipments: 'a shipment',
    payments: 'a payment',
    'status-records': 'a status record',
  },
  currency: { none: 'leave the currency open' },
  calendar_of: { default: 'those of all orders that no other calendar counts' },
  observances: { 'left-out': 'No, people work on them', 'days-off': 'Yes, they are days off' },
}

function title(q: FileQuestion, answer: string): string {
  if (q.word === 'map' && !q.column) return answer.replace(/=order$/, '')
  const word = words[q.word]?.[answer]
  if (word) return word
  return q.word === 'not_known' ? `Yes: ${answer.replace(/,/g, ', ')}` : answer.replace(/-/g, ' ')
}

const items = (q: FileQuestion) => q.answers.map((value) => ({ title: title(q, value), value }))
const sentence = (text: string) =>
  text.charAt(0).toUpperCase() + text.slice(1) + (text.endsWith('?') ? '' : '.')
</script>

<template>
  <div class="questions">
    <v-select
      v-for="q in questionsOf(look)"
      :key="keyOf(q)"
      :model-value="look.answers[keyOf(q)]"
      :items="items(q)"
      :label="labels[q.word]?.(q) ?? q.column"
      :hint="sentence(q.asks)"
      persistent-hint
      :data-test="`ask-${q.word}`"
      @update:model-value="emit('answer', q, $event)"
    />
  </div>
</template>

<style scoped>
.questions {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(22rem, 100%), 1fr));
  gap: 16px;
  align-items: start;
}
</style>
