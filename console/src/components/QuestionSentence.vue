<script setup lang="ts">
import { computed, inject } from 'vue'
import type { Took } from '@/api/client'
import { BOOK } from '@/keys'
import { isSlot, type Question, type Slot } from '@/question'
import WordPicker from './WordPicker.vue'

// The question in words, every changeable word a picker: the title of a page.
const { answer, question } = defineProps<{ answer: Took; question: Question }>()
const emit = defineEmits<{ change: [question: Question] }>()

const book = inject(BOOK)

/** The months, quarters and years that the book covers, the latest first, after the relative periods. */
const periods = computed(() => {
  const words = [
    'all orders',
    'this-month',
    'last-month',
    'this-quarter',
    'last-quarter',
    'this-year',
    'last-year',
    'last-90-days',
  ]
  if (!book?.value) return words
  const [firstYear, firstMonth] = book.value.first_day.split('-').map(Number) as [number, number]
  let [year, month] = book.value.data_date.split('-').map(Number) as [number, number]
  const months: string[] = []
  const quarters = new Set<string>()
  const years = new Set<string>()
  for (; year > firstYear || (year === firstYear && month >= firstMonth); month--) {
    months.push(`${year}-${String(month).padStart(2, '0')}`)
    quarters.add(`${year}-Q${Math.ceil(month / 3)}`)
    years.add(String(year))
    if (month === 1) [year, month] = [year - 1, 13]
  }
  return [...words, ...years, ...quarters, ...months]
})

const choices = computed<Record<Slot, readonly string[]>>(() => {
  const milestones = book?.value?.milestones.filter((m) => m.first).map((m) => m.name) ?? []
  return {
    from: milestones.filter((m) => m !== answer.to),
    to: milestones.filter((m) => m !== answer.from),
    basis: milestones,
    in: book?.value?.units ?? [],
    count: book?.value?.count_rules ?? [],
    period: periods.value,
    by: ['one group', ...(book?.value?.groupings ?? [])],
  }
})

const chosen = computed<Record<Slot, string>>(() => ({
  from: answer.from,
  to: answer.to,
  in: answer.unit,
  count: answer.count_rule,
  basis: answer.basis,
  period: question.period ?? 'all orders',
  by: answer.by.join(',') || 'one group',
}))

/** The sentence's parts; one that is asked without a grouping ends with a picker for it all the same. */
const parts = computed(() => {
  if (answer.by.length > 0) return answer.sentence_parts
  return [
    ...answer.sentence_parts.slice(0, -1),
    { text: ', in ' },
    { text: 'one group', slot: 'by' },
    { text: '?' },
  ]
})

function pick(slot: Slot, word: string) {
  const none = word === 'all orders' || word === 'one group'
  emit('change', { ...question, [slot]: none ? undefined : word })
}
</script>

<template>
  <h1 data-test="sentence">
    <template v-for="(part, i) in parts" :key="i">
      <WordPicker
        v-if="part.slot && isSlot(part.slot)"
        :slot-name="part.slot"
        :text="part.text"
        :choices="choices[part.slot]"
        :chosen="chosen[part.slot]"
        @pick="pick(part.slot as Slot, $event)"
      />
      <span v-else>{{ part.text }}</span>
    </template>
  </h1>
</template>

<style scoped>
h1 {
  font-size: 1.5rem;
  line-height: 1.5;
  font-weight: 500;
  letter-spacing: -0.01em;
  margin-bottom: 20px;
  text-wrap: pretty;
}
</style>
