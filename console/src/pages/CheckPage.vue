<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { useRoute } from 'vue-router'
import { askedBy, numbersOf, rowsOf } from '@/api/expected'
import { type Check, type Readings, sendJSON, type Statement } from '@/api/client'
import type { Document } from '@/api/document'
import AnswerParts from '@/components/AnswerParts.vue'
import ChoiceField from '@/components/ChoiceField.vue'
import ExpectedForm from '@/components/ExpectedForm.vue'
import SavedChecks from '@/components/SavedChecks.vue'
import StateNotice from '@/components/StateNotice.vue'
import TabRow from '@/components/TabRow.vue'
import TwoStrips from '@/components/TwoStrips.vue'
import WhatIfForm from '@/components/WhatIfForm.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'

// An answer held against what is expected of it, or against the same question asked another way.
const { text, to, closeOrder } = useAddress()
const question = computed(() => text('question') ?? '')
const kinds = {
  figure: 'A figure',
  orders: 'Order numbers',
  table: 'A table',
  ways: 'Another way',
  whatif: 'What if',
  sql: 'By SQL',
}
type Kind = keyof typeof kinds
const kind = computed(() => (text('kind') ?? 'figure') as Kind)

/** What is expected, where something is. */
const expecting = computed(() =>
  kind.value === 'figure' || kind.value === 'orders' || kind.value === 'table' ? kind.value : undefined,
)

const { answer, problem, retry } = useAnswer<Document>(() => askedBy(question.value))
const sentence = computed(() => answer.value?.sentence.map((w) => w.text).join('') ?? '')
const titles = computed(() => answer.value?.parts.map((p) => p.title ?? '') ?? [])
const part = computed(() => {
  const parts = answer.value?.parts ?? []
  return parts.find((p) => p.title === text('part')) ?? parts[0]
})

const usual = 'the orders that it counts'
const total = 'all'
const numbers = computed(() =>
  answer.value && part.value ? [usual, ...numbersOf(answer.value, part.value)] : [usual],
)
const rows = computed(() => (answer.value && part.value ? rowsOf(answer.value, part.value) : []))
const rowNames = computed(() => [total, ...rows.value.map((r) => r.join(', '))])
/** Which number is meant. */
const named = computed(() => ({
  part: titles.value.length > 1 ? part.value?.title : undefined,
  number: text('number'),
  row: rows.value.find((r) => r.join(', ') === text('row')),
}))

/** Usual other ways to ask. */
const { answer: readings } = useAnswer<Readings>(() =>
  question.value ? { path: '/readings', query: { question: question.value } } : undefined,
)
const ways = computed(() =>
  Object.fromEntries(readings.value?.readings.map((r) => [r.question, r.words]) ?? []),
)
const route = useRoute()
/** What is supposed, change by change. */
const supposed = computed(() => [route.query.what_if ?? []].flat().filter((change) => change !== null))
const two = computed(() => kind.value === 'ways' || kind.value === 'whatif')
const second = computed(() => {
  if (kind.value !== 'whatif') return text('second') ?? ''
  const changes = new URLSearchParams(supposed.value.map((change) => ['what_if', change])).toString()
  const join = question.value.endsWith('?') ? '' : question.value.includes('?') ? '&' : '?'
  return changes ? question.value + join + changes : ''
})
const {
  answer: beside,
  problem: refused,
  loading: comparing,
  retry: compareAgain,
} = useAnswer<Document>(() =>
  two.value && question.value && second.value
    ? { path: '/two-ways', query: { first: question.value, second: second.value, ...named.value } }
    : undefined,
)

/** What PostgreSQL makes of it. */
const bySQL = (path: string) => () =>
  kind.value === 'sql' && question.value ? { path, query: { question: question.value } } : undefined
const {
  answer: opinion,
  problem: noOpinion,
  loading: asking,
  retry: askAgain,
} = useAnswer<Document>(bySQL('/second-opinion'))
const { answer: statement } = useAnswer<Statement>(bySQL('/sql'))

const result = shallowRef<Document>()
watch([question, kind], () => (result.value = undefined))

/** What is expected, as it was checked last, so that it can be saved. */
const checked = shallowRef<Check>()
async function run(expected: Partial<Check>) {
  checked.value = { question: question.value, ...named.value, ...expected }
  result.value = await sendJSON<Document>('POST', '/check', {}, checked.value)
}
const shown = computed(
  () => (two.value ? beside.value : kind.value === 'sql' ? opinion.value : undefined) ?? result.value,
)
/** An answer to another question than this one is still shown. */
const stale = computed(() => (two.value && comparing.value) || (kind.value === 'sql' && asking.value))
</script>

<template>
  <div>
    <h1 data-test="sentence">{{ question ? 'Is this as expected?' : 'Check an answer' }}</h1>
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="question">
      <p class="asks" data-test="asks">{{ sentence || 'Asking …' }}</p>
      <TabRow :tabs="kinds" :shown="kind" label="What it is held against" @show="to({ kind: $event })" />
      <div class="fields">
        <ChoiceField
          v-if="titles.length > 1"
          :model-value="part?.title ?? ''"
          label="Part"
          :choices="titles"
          @update:model-value="to({ part: $event, row: undefined })"
        />
        <ChoiceField
          v-if="kind !== 'table' && kind !== 'sql'"
          :model-value="text('number') ?? usual"
          label="Which number"
          :choices="numbers"
          data-test="check-number"
          @update:model-value="to({ number: $event === usual ? undefined : $event })"
        />
        <ChoiceField
          v-if="kind !== 'table' && kind !== 'sql' && rows.length > 1"
          :model-value="text('row') ?? total"
          label="Of which row"
          :choices="rowNames"
          data-test="check-row"
          @update:model-value="to({ row: $event === total ? undefined : $event })"
        />
        <ChoiceField
          v-if="kind === 'ways'"
          :model-value="second"
          label="The second way"
          :choices="ways"
          data-test="second-way"
          @update:model-value="to({ second: $event })"
        />
      </div>
      <WhatIfForm
        v-if="kind === 'whatif'"
        :model-value="supposed"
        @update:model-value="to({ what_if: [...$event] })"
      />
      <ExpectedForm
        v-if="expecting"
        :key="expecting"
        :kind="expecting"
        :run="run"
        :checked="checked"
        :done="!!result"
      />
      <StateNotice v-else-if="refused && two" :problem="refused" @retry="compareAgain" />
      <StateNotice v-else-if="noOpinion && kind === 'sql'" :problem="noOpinion" @retry="askAgain" />
      <v-progress-linear v-if="stale" indeterminate height="3" aria-label="Asking" />
      <div v-if="shown" :class="{ stale }" class="result" data-test="result" aria-live="polite">
        <template v-if="kind === 'sql'">
          <p class="verdict">{{ shown.parts[0]?.lines[0]?.text }}</p>
          <p v-for="note in shown.parts[0]?.notes.slice(1)" :key="note.code" class="muted">{{ note.text }}</p>
        </template>
        <v-expansion-panels v-if="kind === 'sql' && statement" class="statement">
          <v-expansion-panel title="The statement" data-test="statement">
            <v-expansion-panel-text>
              <pre tabindex="0">{{ statement.sql }}</pre>
            </v-expansion-panel-text>
          </v-expansion-panel>
        </v-expansion-panels>
        <AnswerParts :document="shown" label="What comes of it" @open="to({ order: $event })" />
      </div>
      <TwoStrips
        v-if="text('order')"
        :number="text('order') ?? ''"
        :first="question"
        :second="two ? second : ''"
        @close="closeOrder"
      />
    </template>
    <template v-else>
      <p class="muted">Press <b>Check</b> beside any answer, to hold it against what you expect.</p>
      <SavedChecks />
    </template>
  </div>
</template>

<style scoped>
.asks {
  max-width: 70ch;
  font-size: 1.1rem;
}

.fields {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin: 16px 0 12px;
}

.fields > * {
  flex: 0 1 300px;
}

.result {
  margin-top: 20px;
}

.stale {
  opacity: 0.5;
}

.verdict {
  font-weight: 550;
}

.statement {
  margin-bottom: 20px;
}

pre {
  overflow-x: auto;
  font-size: 0.8rem;
}
</style>
