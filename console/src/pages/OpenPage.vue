<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { Document, Part } from '@/api/document'
import { agesPicture, bridgePicture, stockPicture } from '@/charts/open'
import { type Bar, barsOf, stretchOf } from '@/charts/timeline'
import ChoiceField from '@/components/ChoiceField.vue'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import OrderTimeline from '@/components/OrderTimeline.vue'
import TabRow from '@/components/TabRow.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { usePages } from '@/composables/useList'
import { useTokens } from '@/composables/useTokens'
import { named } from '@/format'
import { type OwnWord, parameters, type Question, questionOf } from '@/question'
import { light } from '@/theme'

const route = useRoute()
const { text, some, to, closeOrder } = useAddress()

/** What plays no part in what was open is left behind. */
const question = computed<Question>(() => ({
  ...questionOf(route.query),
  basis: undefined,
  cut_off: undefined,
  through: undefined,
  promise: undefined,
  over: undefined,
  at_least: undefined,
}))

const tabs = { period: 'In the period', time: 'Over time', timeline: 'Timeline', ages: 'Ages' } as const
type Tab = keyof typeof tabs
const tab = computed<Tab>(() => {
  if (text('timeline')) return 'timeline'
  if (text('ages') ?? text('at')) return 'ages'
  return text('each') ? 'time' : 'period'
})
function show(name: string) {
  to({
    timeline: name === 'timeline' ? 'true' : undefined,
    ages: name === 'ages' ? 'true' : undefined,
    at: undefined,
    each: name === 'time' ? 'month' : undefined,
  })
}

const words = computed(() => ({
  ...parameters(question.value),
  ...some(['closing_day', 'each', 'holdings', 'ages', 'at', 'buckets', 'timeline', 'sort']),
}))
const asked = computed(() => ({ path: '/open', query: words.value }))
const single = useAnswer<Document>(() => (tab.value === 'timeline' ? undefined : asked.value))
const pages = usePages<Document, Bar>(
  '/open',
  () => (tab.value === 'timeline' ? words.value : undefined),
  barsOf,
)
const shown = computed(() =>
  tab.value === 'timeline'
    ? { document: pages.list.value, problem: pages.problem.value, loading: pages.loading.value }
    : { document: single.answer.value, problem: single.problem.value, loading: single.loading.value },
)
const retry = () => (tab.value === 'timeline' ? pages.retry() : single.retry())

/** The words of the sentence that are the page's own. */
const own = computed<Record<string, OwnWord>>(() => {
  const day = shown.value.document?.sentence.find((w) => w.slot === 'at')?.text ?? ''
  return {
    closing_day: {
      choices: ['in', 'out'],
      names: { in: 'the closing day counted', out: 'the closing day not counted' },
      chosen: text('closing_day') ?? 'in',
    },
    each: { choices: steps, chosen: text('each') ?? 'month' },
    at: { choices: [day].filter(Boolean), chosen: day, example: '2026-03-16' },
  }
})
const steps = ['day', 'week', 'month', 'quarter', 'year']

const tokens = useTokens()
function framed(document: Document, part: Part) {
  const sentence = document.sentence.map((w) => w.text).join('')
  const picture = {
    period: bridgePicture,
    time: (of: Part, t: typeof light) => stockPicture(of, document, t),
    ages: agesPicture,
    timeline: bridgePicture,
  }[tab.value](part, tokens.value)
  return {
    ...picture,
    sentence: part.title ? `${sentence} (${part.title})` : sentence,
    below: part.lines.map((l) => l.text),
    tokens: tokens.value,
  }
}

/** A document whose timeline is drawn below instead. */
const drawn = computed(() => {
  const document = shown.value.document
  if (tab.value !== 'timeline' || !document) return document
  return { ...document, parts: document.parts.map((p) => ({ ...p, tables: [] })) }
})

const ask = (changed: Question) => {
  const before = Object.fromEntries(Object.keys(question.value).map((name) => [name, undefined]))
  to({ ...before, ...parameters(changed) })
}
</script>

<template>
  <AnswerFrame
    :document="drawn"
    :problem="shown.problem"
    :loading="shown.loading"
    :question="question"
    :own="own"
    :list="tab === 'timeline'"
    :asked="asked"
    label="What was open"
    :all="tab === 'timeline' && pages.list.value ? stretchOf(pages.list.value).all : undefined"
    @change="ask"
    @own="(slot, word) => to({ [slot]: word })"
    @retry="retry"
  >
    <template #tools>
      <TabRow :tabs="tabs" :shown="tab" @show="show" />
      <v-text-field
        v-if="tab === 'ages'"
        label="Buckets end at"
        :model-value="text('buckets') ?? '2,5,10,20'"
        data-test="buckets"
        @change="to({ buckets: $event.target.value })"
      />
      <ChoiceField
        v-if="tab === 'ages'"
        label="Over time"
        :model-value="text('each') ?? ''"
        :choices="{ '': 'no', ...named(steps, 'each') }"
        data-test="mix"
        @update:model-value="to({ each: $event })"
      />
      <ChoiceField
        v-if="tab === 'timeline'"
        label="Sorted"
        :model-value="text('sort') ?? 'start'"
        :choices="{ start: 'by start', age: 'the oldest first', length: 'the longest first' }"
        data-test="timeline-sort"
        @update:model-value="to({ sort: $event })"
      />
    </template>
    <template #picture="{ part }">
      <template v-if="tab === 'timeline'">
        <OrderTimeline
          v-if="pages.list.value"
          :document="pages.list.value"
          :bar-at="pages.rowAt"
          @need="(first, last) => pages.need(first, last)"
          @open="to({ order: $event })"
        />
      </template>
      <ChartFrame v-else-if="shown.document" v-bind="framed(shown.document, part)" />
    </template>
  </AnswerFrame>
  <OrderSheet
    v-if="text('order')"
    :key="text('order')"
    :number="text('order') ?? ''"
    :question="question"
    @close="closeOrder"
  />
</template>
