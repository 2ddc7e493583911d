<script setup lang="ts">
import { computed, inject } from 'vue'
import type { Asked } from '@/api/client'
import { BOOK } from '@/keys'
import type { Question } from '@/question'
import ChoiceField from './ChoiceField.vue'
import StatisticsPicker from './StatisticsPicker.vue'

// What can be asked beyond the sentence: a limit, a promise, the legs between, running orders, other statistics.
const { answer, question, unit, running, keeping } = defineProps<{
  answer: Asked & { show: readonly string[] }
  question: Question
  unit: string
  /** Running orders are asked about. */
  running: boolean
  /** So are the promises that can be kept. */
  keeping: boolean
}>()
const emit = defineEmits<{
  change: [question: Question]
  running: [wanted: boolean]
  keeping: [wanted: boolean]
  show: [names: string]
}>()

const book = inject(BOOK)
const limitWord = computed<'over' | 'at_least'>(() => (question.at_least ? 'at_least' : 'over'))
const limit = computed(() => question.over ?? question.at_least ?? '')

function setLimit(word: string, value: string) {
  const isNumber = /^-?\d+(\.\d+)?$/.test(value.trim())
  emit('change', {
    ...question,
    over: undefined,
    at_least: undefined,
    ...(isNumber ? { [word]: value.trim() } : {}),
  })
}

const known = computed(() => book?.value?.milestones.filter((m) => m.first) ?? [])
/** A promise to begin with; the sentence then has a picker for it. */
const plan = computed(
  () => known.value.find((m) => m.plan && m.name === 'promised') ?? known.value.find((m) => m.plan),
)
const isPlan = computed(() => known.value.some((m) => m.plan && m.name === answer.to))

/** The facts that come between the ends in an order's life; where none does, any that could be passed. */
const between = computed(() => {
  const facts = known.value.filter((m) => !m.plan && m.name !== 'cancelled').map((m) => m.name)
  const [from, to] = [facts.indexOf(answer.from), facts.indexOf(answer.to)]
  return from >= 0 && to > from ? facts.slice(from + 1, to) : []
})
const addable = computed(() => between.value.filter((m) => !answer.through.includes(m)))
</script>

<template>
  <ChoiceField
    :model-value="limitWord"
    class="short"
    label="Took"
    :choices="{ over: 'over', at_least: 'at least' }"
    data-test="limit-word"
    @update:model-value="setLimit($event, limit)"
  />
  <v-text-field
    class="short"
    inputmode="decimal"
    :model-value="limit"
    :label="unit"
    :aria-label="`The limit, in ${unit}`"
    placeholder="10"
    data-test="limit"
    @change="setLimit(limitWord, $event.target.value)"
  />
  <v-checkbox
    v-if="plan && !isPlan"
    :model-value="answer.promise !== undefined"
    label="against the promise"
    data-test="ask-promise"
    @update:model-value="emit('change', { ...question, promise: $event ? plan.name : undefined })"
  />
  <v-checkbox
    v-if="between.length > 0"
    :model-value="answer.through.length > 0"
    label="each leg on the way"
    data-test="ask-legs"
    @update:model-value="emit('change', { ...question, through: $event ? addable.join(',') : undefined })"
  />
  <v-checkbox
    :model-value="running"
    label="with open orders"
    data-test="with-running"
    @update:model-value="emit('running', $event === true)"
  />
  <v-checkbox
    :model-value="keeping"
    label="promises that can be kept"
    data-test="keep"
    @update:model-value="emit('keeping', $event === true)"
  />
  <StatisticsPicker :show="answer.show" @pick="emit('show', $event)" />
</template>
