<script setup lang="ts">
import { computed, inject } from 'vue'
import type { StatusList } from '@/api/client'
import type { Document, Part } from '@/api/document'
import { latestPicture, timesPicture, transitionsPicture } from '@/charts/status'
import ChoiceField from '@/components/ChoiceField.vue'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import PageTurner from '@/components/PageTurner.vue'
import StateNotice from '@/components/StateNotice.vue'
import StatusListEditor from '@/components/StatusListEditor.vue'
import TabRow from '@/components/TabRow.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { useTokens } from '@/composables/useTokens'
import { counted, named } from '@/format'
import { BOOK } from '@/keys'
import { groupingNames, type OwnWord, type Question } from '@/question'

const book = inject(BOOK)
const { text, some, to, offset, closeOrder } = useAddress()

const tabs = {
  latest: 'Where they stand',
  times: 'How long',
  transitions: 'Transitions',
  periods: 'Status periods',
  list: 'The list',
} as const
type Tab = keyof typeof tabs
const tab = computed<Tab>(
  () => (Object.keys(tabs) as Tab[]).find((name) => name === text('show')) ?? 'latest',
)

/** What each question takes besides the words that all take. */
const takes: Record<Tab, readonly string[]> = {
  latest: ['by', 'at'],
  times: ['by', 'period', 'each', 'status_periods'],
  transitions: ['period'],
  periods: ['period', 'status', 'sort', 'status_periods'],
  list: [],
}
const page = 100
const asked = computed(() => ({
  path: `/status/${tab.value}`,
  query: {
    ...some(['in', 'calendar', 'source', 'max_gap', 'where', ...takes[tab.value]]),
    ...(tab.value === 'times' && text('each') ? { by: undefined } : {}),
    ...(tab.value === 'periods' ? { offset: offset.value, limit: page } : {}),
  },
}))
const { answer, problem, loading, retry } = useAnswer<Document>(() =>
  tab.value === 'list' ? undefined : asked.value,
)
const listed = useAnswer<StatusList>({ path: '/statuses', query: {} })
const none = computed(() => listed.answer.value?.statuses.length === 0)
/** While another tab's answer is on its way, the last one is not shown under its name. */
const document = computed(() =>
  answer.value?.analysis === `status-${tab.value}` && listed.answer.value ? answer.value : undefined,
)

const question = computed<Question>(() => some(['in', 'calendar', 'period', 'by', 'where']))
const ask = (changed: Question) =>
  to({ ...changed, from: undefined, to: undefined, basis: undefined, count: undefined })

const steps = ['day', 'week', 'month', 'quarter', 'year']
/** Of the status periods all are counted, or those that meet a condition; one to begin with. */
const allPeriods = 'all status periods'
const longer = 'period.length > 3'
const picks = computed(() => takes[tab.value].includes('status_periods'))
const gaps = ['1', '2', '3', '5', '7', '14']
const own = computed<Record<string, OwnWord>>(() => {
  const day = document.value?.sentence.find((w) => w.slot === 'at')?.text ?? ''
  return {
    at: { choices: [day].filter(Boolean), chosen: day, example: '2026-03-16' },
    each: { choices: steps, chosen: text('each') ?? 'month' },
    source: {
      choices: ['either', 'event', 'daily'],
      names: {
        either: 'events, else the daily list',
        event: 'events alone',
        daily: 'the daily list alone',
      },
      chosen: text('source') ?? 'either',
    },
    status_periods: {
      choices: [allPeriods, text('status_periods') ?? ''].filter(Boolean),
      chosen: text('status_periods') ?? '',
      example: longer,
    },
    max_gap: { choices: gaps, chosen: text('max_gap') ?? '', example: '10, in days' },
  }
})

const columns = 'number,customer,site,ordered,shipped,status,status-since,status-age,returns'

const tokens = useTokens()
function framed(of: Document, part: Part) {
  const drawn = {
    statuses: listed.answer.value?.statuses ?? [],
    columns,
    heading: of.heading ?? '',
    tokens: tokens.value,
  }
  const pictures = { latest: latestPicture, times: timesPicture, transitions: transitionsPicture }
  return {
    ...pictures[tab.value as keyof typeof pictures](part, drawn),
    sentence: of.sentence.map((w) => w.text).join(''),
    below: part.lines.slice(0, 1).map((l) => l.text),
    tokens: drawn.tokens,
  }
}
const statuses = computed(() => (listed.answer.value?.statuses ?? []).map((s) => s.name))
</script>

<template>
  <template v-if="tab === 'list'">
    <StateNotice v-if="listed.problem.value" :problem="listed.problem.value" @retry="listed.retry" />
    <h1>Which statuses are there, in which order, and which of them end an order?</h1>
    <div class="also"><TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event })" /></div>
    <StatusListEditor v-if="listed.answer.value && !none" :list="listed.answer.value" @saved="listed.retry" />
  </template>
  <AnswerFrame
    v-else
    :document="document && none ? { ...document, parts: [] } : document"
    :problem="problem ?? listed.problem.value"
    :loading="loading"
    :question="question"
    :own="own"
    :asked="asked"
    label="Statuses"
    :columns="columns"
    list
    @change="ask"
    @own="(slot, word) => to({ [slot]: word === allPeriods ? undefined : word })"
    @retry="retry"
    @open="to({ order: $event, offset: text('offset') })"
  >
    <template #tools>
      <TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event === 'latest' ? undefined : $event })" />
      <ChoiceField
        v-if="tab === 'latest' || (tab === 'times' && !text('each'))"
        label="By"
        :model-value="text('by') ?? ''"
        :choices="{ '': 'nothing', ...groupingNames(book?.groupings ?? [], book?.milestones) }"
        data-test="by"
        @update:model-value="to({ by: $event })"
      />
      <ChoiceField
        v-if="tab === 'times'"
        label="Over time"
        :model-value="text('each') ?? ''"
        :choices="{ '': 'no', ...named(steps, 'each') }"
        data-test="each"
        @update:model-value="to({ each: $event })"
      />
      <v-btn
        v-if="picks && !text('status_periods')"
        data-test="pick-some-periods"
        @click="to({ status_periods: longer })"
      >
        Some status periods only
      </v-btn>
      <ChoiceField
        v-if="text('source') === 'daily'"
        label="Silent for at most"
        :model-value="text('max_gap') ?? ''"
        :choices="{ '': 'any time', ...Object.fromEntries(gaps.map((g) => [g, counted(Number(g), 'day')])) }"
        data-test="max-gap"
        @update:model-value="to({ max_gap: $event })"
      />
      <template v-if="tab === 'periods'">
        <ChoiceField
          label="Of"
          :model-value="text('status') ?? ''"
          :choices="{ '': 'every status', ...named(statuses), 'not seen': 'not seen' }"
          data-test="of-status"
          @update:model-value="to({ status: $event })"
        />
        <ChoiceField
          label="Sorted"
          :model-value="text('sort') ?? 'order'"
          :choices="{ order: 'by order', length: 'the longest first', from: 'the latest first' }"
          data-test="period-sort"
          @update:model-value="to({ sort: $event })"
        />
      </template>
    </template>
    <template #picture="{ part }">
      <ChartFrame v-if="tab !== 'periods' && document" v-bind="framed(document, part)" />
    </template>
  </AnswerFrame>
  <p v-if="none" class="panel empty">
    No status records are in the book. A file with the columns order, status and at brings them:
    <router-link to="/import">Import</router-link>.
  </p>
  <PageTurner
    v-if="tab === 'periods'"
    :offset="offset"
    :size="page"
    :all="document?.parts[0]?.tables[0]?.all ?? 0"
    @turn="to({ offset: $event || undefined })"
  />
  <OrderSheet
    v-if="text('order')"
    :key="text('order')"
    :number="text('order') ?? ''"
    :question="some(['in', 'calendar'])"
    @close="closeOrder"
  />
</template>

<style scoped>
h1 {
  margin-bottom: 22px;
}

.empty {
  padding: 28px;
}
</style>
