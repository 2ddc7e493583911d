<script setup lang="ts">
import { computed, inject } from 'vue'
import type { Asked } from '@/api/client'
import { BOOK } from '@/keys'
import type { Question } from '@/question'
import StatisticsPicker from './StatisticsPicker.vue'

// What can be asked beyond the sentence: a limit, a promise, the legs between, running orders, other statistics.
const { answer, question, unit, running } = defineProps<{
  answer: Asked & { show: readonly string[] }
  question: Question
  unit: string
  /** Running orders are asked about. */
  running: boolean
}>()
const emit = defineEmits<{
  change: [question: Question]
  running: [wanted: boolean]
  show: [names: string]
}>()

const book = inject(BOOK)
const limitWord = computed(() => (question.at_least ? 'at_least' : 'over'))
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
  <label
    >How many took
    <select
      class="field"
      :value="limitWord"
      aria-label="Over, or at least"
      data-test="limit-word"
      @change="setLimit(($event.target as HTMLSelectElement).value, limit)"
    >
      <option value="over">over</option>
      <option value="at_least">at least</option>
    </select></label
  >
  <label
    ><input
      class="field limit"
      inputmode="decimal"
      :value="limit"
      :aria-label="`The limit, in ${unit}`"
      placeholder="10"
      data-test="limit"
      @change="setLimit(limitWord, ($event.target as HTMLInputElement).value)"
    />
    {{ unit }}</label
  >
  <label v-if="plan && !isPlan"
    ><input
      type="checkbox"
      :checked="answer.promise !== undefined"
      data-test="ask-promise"
      @change="
        emit('change', {
          ...question,
          promise: ($event.target as HTMLInputElement).checked ? plan.name : undefined,
        })
      "
    />
    against the promise</label
  >
  <label v-if="between.length > 0"
    ><input
      type="checkbox"
      :checked="answer.through.length > 0"
      data-test="ask-legs"
      @change="
        emit('change', {
          ...question,
          through: ($event.target as HTMLInputElement).checked ? addable.join(',') : undefined,
        })
      "
    />
    each leg on the way</label
  >
  <label
    ><input
      type="checkbox"
      :checked="running"
      data-test="with-running"
      @change="emit('running', ($event.target as HTMLInputElement).checked)"
    />
    with the orders that still run</label
  >
  <StatisticsPicker :show="answer.show" @pick="emit('show', $event)" />
</template>

<style scoped>
.limit {
  width: 64px;
}
</style>
