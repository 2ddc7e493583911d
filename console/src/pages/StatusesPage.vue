<script setup lang="ts">
import { computed, defineAsyncComponent, inject } from 'vue'
import { useTheme } from 'vuetify'
import type { StatusList } from '@/api/client'
import type { Document, Part } from '@/api/document'
import { latestPicture, timesPicture, transitionsPicture } from '@/charts/status'
import AnswerFrame from '@/components/AnswerFrame.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import PageTurner from '@/components/PageTurner.vue'
import StateNotice from '@/components/StateNotice.vue'
import StatusListEditor from '@/components/StatusListEditor.vue'
import TabRow from '@/components/TabRow.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { counted } from '@/format'
import { BOOK } from '@/keys'
import type { OwnWord, Question } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const book = inject(BOOK)
const { text, some, to, offset } = useAddress()

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
  times: ['by', 'period', 'each'],
  transitions: ['period'],
  periods: ['period', 'status', 'sort'],
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
    max_gap: { choices: gaps, chosen: text('max_gap') ?? '', example: '10, in days' },
  }
})

const columns = 'number,customer,site,ordered,shipped,status,status-since,status-age,returns'

const theme = useTheme()
function framed(of: Document, part: Part) {
  const drawn = {
    statuses: listed.answer.value?.statuses ?? [],
    columns,
    heading: of.heading ?? '',
    tokens: theme.global.current.value.dark ? dark : light,
  }
  const pictures = { latest: latestPicture, times: timesPicture, transitions: transitionsPicture }
  return {
    ...pictures[tab.value as keyof typeof pictures](part, drawn),
    sentence: of.sentence.map((w) => w.text).join(''),
    below: part.lines.slice(0, 1).map((l) => l.text),
    tokens: drawn.tokens,
  }
}
const value = (event: Event) => (event.target as HTMLSelectElement).value || undefined
</script>

<template>
  <template v-if="tab === 'list'">
    <StateNotice v-if="listed.problem.value" :problem="listed.problem.value" @retry="listed.retry" />
    <h1>Which statuses are there, in which order, and which of them end an order?</h1>
    <p class="also"><TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event })" /></p>
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
    @own="(slot, word) => to({ [slot]: word })"
    @retry="retry"
    @open="to({ order: $event, offset: text('offset') })"
  >
    <template #tools>
      <TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event === 'latest' ? undefined : $event })" />
      <label v-if="tab === 'latest' || (tab === 'times' && !text('each'))"
        >By
        <select class="field" :value="text('by') ?? ''" data-test="by" @change="to({ by: value($event) })">
          <option value="">nothing</option>
          <option v-for="g in book?.groupings" :key="g" :value="g">{{ g }}</option>
        </select></label
      >
      <label v-if="tab === 'times'"
        >Over time
        <select
          class="field"
          :value="text('each') ?? ''"
          data-test="each"
          @change="to({ each: value($event) })"
        >
          <option value="">no</option>
          <option v-for="step in steps" :key="step" :value="step">each {{ step }}</option>
        </select></label
      >
      <label v-if="text('source') === 'daily'"
        >Silent for at most
        <select
          class="field"
          :value="text('max_gap') ?? ''"
          data-test="max-gap"
          @change="to({ max_gap: value($event) })"
        >
          <option value="">any time</option>
          <option v-for="gap in gaps" :key="gap" :value="gap">{{ counted(Number(gap), 'day') }}</option>
        </select></label
      >
      <template v-if="tab === 'periods'">
        <label
          >Of
          <select
            class="field"
            :value="text('status') ?? ''"
            data-test="of-status"
            @change="to({ status: value($event) })"
          >
            <option value="">every status</option>
            <option v-for="s in listed.answer.value?.statuses" :key="s.name" :value="s.name">
              {{ s.name }}
            </option>
            <option value="not seen">not seen</option>
          </select></label
        >
        <label
          >Sorted
          <select
            class="field"
            :value="text('sort') ?? 'order'"
            data-test="period-sort"
            @change="to({ sort: value($event) })"
          >
            <option value="order">by order</option>
            <option value="length">the longest first</option>
            <option value="from">the latest first</option>
          </select></label
        >
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
    @close="to({ order: undefined, offset: text('offset') })"
  />
</template>

<style scoped>
.field {
  max-width: 170px;
}

h1 {
  margin-bottom: 22px;
}

.empty {
  padding: 28px;
}
</style>
