<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import type { Took, TookPart } from '@/api/client'
import { columnsOf, distributionOption, wordsOf } from '@/charts/distribution'
import ConditionPicker from '@/components/ConditionPicker.vue'
import GroupTable from '@/components/GroupTable.vue'
import KeepView from '@/components/KeepView.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import ReconciliationLine from '@/components/ReconciliationLine.vue'
import StateNotice from '@/components/StateNotice.vue'
import WaitingTable from '@/components/WaitingTable.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count } from '@/format'
import { ordersBehind, parameters, type Question, questionOf } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const route = useRoute()
const router = useRouter()
const question = computed(() => questionOf(route.query))
/** What is asked beyond the question itself: a limit, and what running orders add. */
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
const beyond = computed(() => ({
  over: text('over') || undefined,
  at_least: text('at_least') || undefined,
  with_running: text('with_running') || undefined,
}))
const limitWord = computed(() => (beyond.value.at_least ? 'at_least' : 'over'))
const limit = computed(() => beyond.value.over ?? beyond.value.at_least ?? '')

const { answer, problem, loading, retry } = useAnswer<Took>(() => ({
  path: '/took',
  query: { ...parameters(question.value), ...beyond.value },
}))

function setLimit(word: string, value: string) {
  const isNumber = /^-?\d+(\.\d+)?$/.test(value.trim())
  router.push({
    query: {
      ...route.query,
      over: undefined,
      at_least: undefined,
      ...(isNumber ? { [word]: value.trim() } : {}),
    },
  })
}

function withRunning(wanted: boolean) {
  router.push({ query: { ...route.query, with_running: wanted ? 'true' : undefined } })
}

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

/** The unit as the sentence has it. */
const unit = computed(() => answer.value?.sentence_parts.find((p) => p.slot === 'in')?.text ?? '')

/** The question of one part alone: several periods are several answers. */
function asked(part: TookPart): Question {
  return { ...question.value, period: part.period.text || undefined }
}

/** What the picture of a part needs. */
function picture({ sentence, heading, parts }: Took, part: TookPart) {
  const columns = columnsOf(part.distribution, part.stretch)
  const { median, p90 } = part.total
  return {
    sentence: parts.length > 1 ? `${sentence} (${part.period.text})` : sentence,
    below: [part.total.reconciliation_line, part.placement_line].flatMap((line) => line || []),
    option: distributionOption(
      columns,
      { heading, unit: unit.value, stretch: part.stretch, median, p90 },
      tokens.value,
    ),
    rows: [[heading, 'orders'], ...part.distribution.map((b) => [b.length, b.orders])],
    points: columns.map((c) => ({
      words: wordsOf(c, unit.value),
      to: ordersBehind(asked(part), { state: 'counted', shortest: c.shortest, longest: c.longest }),
    })),
    tokens: tokens.value,
  }
}

function where(condition: string) {
  ask({ ...question.value, where: condition || undefined })
}

function ask(changed: Question) {
  router.push({ query: { ...changed, ...beyond.value } })
}
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <p v-if="problem && question.where" class="mend">
      Change the condition: <ConditionPicker :text="question.where" @pick="where" />
    </p>
    <template v-if="answer">
      <QuestionSentence :answer="answer" :question="question" @change="ask" />
      <p class="keep">
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
        <label
          ><input
            type="checkbox"
            :checked="beyond.with_running === 'true'"
            data-test="with-running"
            @change="withRunning(($event.target as HTMLInputElement).checked)"
          />
          with the orders that still run</label
        >
        <KeepView :sentence="answer.sentence" />
      </p>
      <section v-for="part in answer.parts" :key="part.period.from + part.period.to">
        <h2 v-if="answer.parts.length > 1">{{ part.period.text }}</h2>
        <ChartFrame v-if="part.total.n > 0" v-bind="picture(answer, part)" />
        <p v-else class="panel empty">No order is counted here; the line below says what became of each.</p>
        <GroupTable :answer="answer" :part="part" :question="asked(part)" />
        <WaitingTable
          v-if="answer.limit || part.total.estimate"
          :answer="answer"
          :part="part"
          :question="asked(part)"
        />
        <p v-if="answer.no_curve" class="amber" data-test="no-curve">
          There is no estimate with running orders: {{ answer.no_curve }}.
        </p>
        <div class="below">
          <ReconciliationLine :part="part" :question="asked(part)" />
          <p v-for="note in part.notes" :key="note.code" class="amber">
            {{ note.text }}
            <router-link
              v-if="note.orders > 0"
              :to="ordersBehind(asked(part), { note: note.code })"
              :data-test="`note-${note.code}`"
              >Open {{ note.orders === 1 ? 'it' : `the ${count(note.orders)}` }}</router-link
            >
          </p>
        </div>
      </section>
    </template>
    <p v-else-if="!problem" class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.keep {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
  margin: -10px 0 12px;
  font-size: 0.9rem;
}

.limit {
  width: 64px;
}

.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}

.mend {
  margin: 16px 0;
}

.empty {
  padding: 28px;
  margin-bottom: 20px;
}
</style>
