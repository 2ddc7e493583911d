<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import type { Took, TookPart } from '@/api/client'
import { leftOut, type PictureName, pictureNames, pictureOf, picturesOf } from '@/charts/pictures'
import AlsoAsk from '@/components/AlsoAsk.vue'
import ConditionPicker from '@/components/ConditionPicker.vue'
import CrossTable from '@/components/CrossTable.vue'
import GroupTable from '@/components/GroupTable.vue'
import KeepView from '@/components/KeepView.vue'
import PromiseTable from '@/components/PromiseTable.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import ReconciliationLine from '@/components/ReconciliationLine.vue'
import StateNotice from '@/components/StateNotice.vue'
import TakeAway from '@/components/TakeAway.vue'
import WaitingTable from '@/components/WaitingTable.vue'
import WorkingSteps from '@/components/WorkingSteps.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count } from '@/format'
import { ordersBehind, parameters, type Question, questionOf } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const route = useRoute()
const router = useRouter()
const question = computed(() => questionOf(route.query))
/** What is asked beyond the question itself: other statistics, and what running orders add. */
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : undefined)
const beyond = computed(() => ({ show: text('show'), with_running: text('with_running') }))
const asking = computed(() => ({ ...parameters(question.value), ...beyond.value }))

const { answer, problem, loading, retry } = useAnswer<Took>(() => ({ path: '/took', query: asking.value }))

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

/** The unit as the sentence has it. */
const unit = computed(() => answer.value?.sentence_parts.find((p) => p.slot === 'in')?.text ?? '')

/** The question of one part alone: several periods are several answers. */
function asked(part: TookPart): Question {
  return { ...question.value, period: part.period.text || undefined }
}

/** The picture of a part that is shown: the one that was picked, where the answer has it. */
function shownOf(answer: Took, part: TookPart): PictureName | undefined {
  const names = picturesOf(answer, part)
  return names.find((name) => name === text('picture')) ?? names[0]
}

/** What the frame of a part's picture needs. */
function framed(name: PictureName, answer: Took, part: TookPart) {
  return {
    ...pictureOf(name, answer, part, asked(part), unit.value, tokens.value),
    sentence: answer.parts.length > 1 ? `${answer.sentence} (${part.period.text})` : answer.sentence,
    below: [part.total.reconciliation_line, part.placement_line].flatMap((line) => line || []),
    tokens: tokens.value,
  }
}

const to = (query: Record<string, string | undefined>) => router.push({ query: { ...route.query, ...query } })

function ask(changed: Question) {
  router.push({ query: { ...parameters(changed), ...beyond.value, picture: text('picture') } })
}

function where(condition: string) {
  ask({ ...question.value, where: condition || undefined })
}

const rowsOf = (answer: Took) =>
  answer.parts.reduce((rows, part) => rows + (part.groups.length + 1) * (part.legs.length + 1), 0)
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <p v-if="problem && question.where" class="mend">
      Change the condition: <ConditionPicker :text="question.where" @pick="where" />
    </p>
    <template v-if="answer">
      <QuestionSentence :answer="answer" :question="question" @change="ask" />
      <p class="also">
        <AlsoAsk
          :answer="answer"
          :question="question"
          :unit="unit"
          :running="beyond.with_running === 'true'"
          @change="ask"
          @running="to({ with_running: $event ? 'true' : undefined })"
          @show="to({ show: $event })"
        />
        <KeepView :sentence="answer.sentence" />
        <TakeAway path="/took-file" :query="asking" :rows="rowsOf(answer)">Take the table away</TakeAway>
      </p>
      <section v-for="part in answer.parts" :key="part.period.from + part.period.to">
        <h2 v-if="answer.parts.length > 1">{{ part.period.text }}</h2>
        <div v-if="picturesOf(answer, part).length > 1" class="pictures" role="group" aria-label="Picture">
          <button
            v-for="name in picturesOf(answer, part)"
            :key="name"
            type="button"
            :aria-pressed="name === shownOf(answer, part)"
            :data-test="`picture-${name}`"
            @click="to({ picture: name })"
          >
            {{ pictureNames[name] }}
          </button>
        </div>
        <template v-for="name in [shownOf(answer, part)]" :key="name ?? 'none'">
          <ChartFrame v-if="name" v-bind="framed(name, answer, part)" />
          <p v-else class="panel empty">No order is counted here; the line below says what became of each.</p>
          <p v-if="name && leftOut(name, part)" class="amber room">{{ leftOut(name, part) }}</p>
        </template>
        <CrossTable
          v-if="answer.by.length === 2 && part.legs.length === 0"
          :answer="answer"
          :part="part"
          :question="asked(part)"
        />
        <details v-if="answer.by.length === 2 && part.legs.length === 0" class="list">
          <summary data-test="as-list">As a list, with what is left out</summary>
          <GroupTable :answer="answer" :part="part" :question="asked(part)" />
        </details>
        <GroupTable v-else :answer="answer" :part="part" :question="asked(part)" />
        <p v-if="part.groups.length < part.all_groups" class="amber says" data-test="more-groups">
          The first {{ count(part.groups.length) }} of {{ count(part.all_groups) }} groups are shown; the
          table that is taken away has all.
        </p>
        <p v-if="part.chain_line" class="says" data-test="chain-line">{{ part.chain_line }}.</p>
        <PromiseTable v-if="part.total.kept" :answer="answer" :part="part" :question="asked(part)" />
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
          <WorkingSteps :part="part" :question="asked(part)" />
        </div>
      </section>
    </template>
    <p v-else-if="!problem" class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.pictures {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin: 0 4px 8px;
  font-size: 0.9rem;
}

.pictures button {
  color: rgb(var(--v-theme-muted));
  padding-bottom: 2px;
  border-bottom: 2px solid transparent;
}

.pictures button[aria-pressed='true'] {
  color: rgb(var(--v-theme-on-surface));
  font-weight: 600;
  border-bottom-color: rgb(var(--v-theme-secondary));
}

.room {
  margin: -12px 4px 14px;
  font-size: 0.85rem;
}

.list {
  margin: 12px 0;
}

.list summary {
  cursor: pointer;
  margin: 0 4px 8px;
  font-size: 0.9rem;
}

.says {
  margin: 8px 4px 0;
  font-size: 0.9rem;
}

.says::first-letter {
  text-transform: uppercase;
}

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
