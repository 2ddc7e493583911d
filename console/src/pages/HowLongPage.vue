<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import type { Took, TookPart } from '@/api/client'
import { distributionOption } from '@/charts/distribution'
import GroupTable from '@/components/GroupTable.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import ReconciliationLine from '@/components/ReconciliationLine.vue'
import StateNotice from '@/components/StateNotice.vue'
import { useAnswer } from '@/composables/useAnswer'
import { labelOf, parameters, type Question, questionOf } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const route = useRoute()
const router = useRouter()
const question = computed(() => questionOf(route.query))
const { answer, problem, loading, retry } = useAnswer<Took>(() => ({
  path: '/took',
  query: parameters(question.value),
}))

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

function picture(part: TookPart) {
  const unit = labelOf(answer.value?.unit ?? '')
  return distributionOption(
    part.distribution,
    { median: part.total.median, p90: part.total.p90, unit },
    tokens.value,
  )
}

function rows(part: TookPart) {
  return [
    [labelOf(answer.value?.unit ?? ''), 'orders'],
    ...part.distribution.map((b) => [b.length, b.orders]),
  ]
}

function ask(changed: Question) {
  router.push({ query: { ...changed } })
}
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-if="answer">
      <QuestionSentence :answer="answer" :question="question" @change="ask" />
      <section v-for="part in answer.parts" :key="part.period.from + part.period.to">
        <h2 v-if="answer.parts.length > 1">{{ part.period.text }}</h2>
        <ChartFrame
          v-if="part.total.n > 0"
          :sentence="answer.sentence"
          :option="picture(part)"
          :rows="rows(part)"
        />
        <p v-else class="panel empty">No order is counted here; the line below says what became of each.</p>
        <GroupTable :answer="answer" :part="part" :question="question" />
        <div class="below">
          <ReconciliationLine :group="part.total" :question="question" />
          <p v-if="part.placement_line" class="muted">{{ part.placement_line }}</p>
          <p v-for="note in part.notes" :key="note.code" class="amber">{{ note.text }}</p>
        </div>
      </section>
    </template>
    <p v-else-if="!problem" class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}

.empty {
  padding: 28px;
  margin-bottom: 20px;
}
</style>
