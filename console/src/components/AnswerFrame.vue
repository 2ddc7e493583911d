<script setup lang="ts">
import { mdiCheckAll } from '@mdi/js'
import { computed } from 'vue'
import { checkable, questionOf } from '@/api/check'
import type { Problem, Query } from '@/api/client'
import { askedOf, type Column, type Document, type Part, type Row, type Table } from '@/api/document'
import type { OwnWord, Question } from '@/question'
import AnswerParts from './AnswerParts.vue'
import ConditionPicker from './ConditionPicker.vue'
import FilterChips from './FilterChips.vue'
import SaveView from './SaveView.vue'
import QuestionSentence from './QuestionSentence.vue'
import StateNotice from './StateNotice.vue'
import ExportMenu from './ExportMenu.vue'

// An answer on a page: its sentence, whatever else can be asked, the picture, the tables, what adds up, notes, and what can be
// done with it.
const { document, problem, loading, question, all } = defineProps<{
  document?: Document
  problem?: Problem
  loading: boolean
  question: Question
  /** Words of the sentence that are the page's own, by their slot. */
  own?: Readonly<Record<string, OwnWord>>
  /** The question takes no groupings in its sentence. */
  list?: boolean
  /** Nothing of the sentence can be changed. */
  fixed?: boolean
  /** What is asked, for a file of the answer. */
  asked?: { path: string; query: Query }
  label: string
  /** The columns of the lists that its numbers open. */
  columns?: string
  /** How many rows a file has, where the tables do not say. */
  all?: number
  /** The tables whose heads sort them, by their codes. */
  sorts?: readonly string[]
  /** The ground of a cell. */
  ground?: (table: Table, row: Row, column: Column, at: number) => string | undefined
}>()
const emit = defineEmits<{
  change: [question: Question]
  own: [slot: string, word: string]
  retry: []
  open: [order: string]
  sort: [column: string]
}>()
defineSlots<{
  tools?: () => unknown
  picture?: (props: { part: Part }) => unknown
  above?: (props: { part: Part; table: Table }) => unknown
  before?: () => unknown
}>()

/** A question that was refused keeps its sentence, from the answer before, so that it can be put right. */
const kept = computed(() => problem?.status === 422 && document !== undefined)

/** What a screen reader is told of a new answer: its first line. */
const announced = computed(() => (loading || problem ? '' : (document?.parts[0]?.lines[0]?.text ?? '')))

const rows = computed(
  () => all ?? document?.parts.reduce((sum, p) => sum + (p.tables[0]?.all ?? 0) + 1, 0) ?? 0,
)
</script>

<template>
  <div :aria-busy="loading">
    <div class="asking">
      <v-progress-linear v-if="loading" indeterminate height="3" aria-label="Asking" />
    </div>
    <p class="unseen" aria-live="polite">{{ announced }}</p>
    <StateNotice v-if="problem && !kept" :problem="problem" @retry="emit('retry')" />
    <p v-if="problem && !kept && question.where" class="mend">
      Change the condition:
      <ConditionPicker
        :text="question.where"
        @pick="emit('change', { ...question, where: $event || undefined })"
      />
    </p>
    <template v-if="document && (!problem || kept)">
      <h1 v-if="fixed" data-test="sentence">{{ document.sentence.map((w) => w.text).join('') }}</h1>
      <QuestionSentence
        v-else
        :answer="askedOf(document, question)"
        :question="question"
        :own="own"
        :list="list"
        :fault="problem?.parameter"
        @change="emit('change', $event)"
        @own="(slot, word) => emit('own', slot, word)"
      />
      <StateNotice v-if="problem" :problem="problem" @retry="emit('retry')" />
      <div :class="{ stale: loading }" :inert="problem !== undefined">
        <div class="also">
          <FilterChips />
          <slot name="tools" />
          <template v-if="!problem">
            <SaveView :sentence="document.sentence.map((w) => w.text).join('')" />
            <ExportMenu v-if="asked" :path="asked.path" :query="asked.query" :rows="rows" />
            <v-btn
              v-if="asked && checkable(asked.path)"
              :prepend-icon="mdiCheckAll"
              :to="{ path: '/check', query: { question: questionOf(asked) } }"
              data-test="check-this"
              >Check</v-btn
            >
          </template>
        </div>
        <template v-if="!problem">
          <slot name="before" />
          <AnswerParts
            :document="document"
            :label="label"
            :columns="columns"
            :sorts="sorts"
            :ground="ground"
            @open="emit('open', $event)"
            @sort="emit('sort', $event)"
          >
            <template #picture="{ part }"><slot name="picture" :part="part" /></template>
            <template #above="{ part, table }"><slot name="above" :part="part" :table="table" /></template>
          </AnswerParts>
          <!-- Of an empty book there is no day to tell. -->
          <p v-if="document.data_date > '1900-01-01'" class="on-paper" data-test="records">
            Records from {{ document.first_day }} to {{ document.data_date }}.
          </p>
        </template>
      </div>
    </template>
    <p v-else-if="!problem" class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.asking {
  height: 3px;
  margin: -6px 0 3px;
}

/* An answer to another question than that in the address: after a moment it steps back. */
.stale {
  opacity: 0.5;
  transition: opacity 0.15s 0.2s;
}
</style>
