<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import type { Ages, Lane, Lanes, Open, OpenPart, OpenRow } from '@/api/client'
import { agesPicture, bridgePicture, stockPicture } from '@/charts/open'
import AgesTable from '@/components/AgesTable.vue'
import ConditionPicker from '@/components/ConditionPicker.vue'
import KeepView from '@/components/KeepView.vue'
import OpenTable from '@/components/OpenTable.vue'
import OrderLanes from '@/components/OrderLanes.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import StateNotice from '@/components/StateNotice.vue'
import TabRow from '@/components/TabRow.vue'
import { useAnswer } from '@/composables/useAnswer'
import { usePages } from '@/composables/useList'
import { count, counted } from '@/format'
import { ordersBehind, type OwnWord, parameters, type Question, questionOf } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const route = useRoute()
const router = useRouter()
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : undefined)

/** What plays no part in what was open is left behind. */
const question = computed<Question>(() => ({
  ...questionOf(route.query),
  basis: undefined,
  through: undefined,
  promise: undefined,
  over: undefined,
  at_least: undefined,
}))

const tabs = { period: 'In the period', time: 'Over time', lanes: 'Lanes', ages: 'Ages' } as const
type Tab = keyof typeof tabs
const tab = computed<Tab>(
  () => (Object.keys(tabs) as Tab[]).find((name) => name === text('show')) ?? 'period',
)
const each = computed(() => text('each') ?? 'month')
const asking = computed(() => ({ ...parameters(question.value), closing_day: text('closing_day') }))

const { answer, problem, loading, retry } = useAnswer<Open>(() =>
  tab.value === 'period' || tab.value === 'time'
    ? { path: '/open', query: { ...asking.value, each: tab.value === 'time' ? each.value : undefined } }
    : undefined,
)
const aged = useAnswer<Ages>(() =>
  tab.value === 'ages'
    ? {
        path: '/open/ages',
        query: { ...asking.value, at: text('at'), buckets: text('buckets'), each: text('mix') },
      }
    : undefined,
)
const lanes = usePages<Lanes, Lane & { off: readonly number[]; calendarName: string }>(
  '/open/lanes',
  () => (tab.value === 'lanes' ? { ...asking.value, sort: text('sort') } : undefined),
  (page) =>
    page.lanes.map((l) => ({
      ...l,
      off: page.calendars[l.calendar]?.off ?? [],
      calendarName: page.calendars[l.calendar]?.name ?? '',
    })),
)
const asked = computed(
  () => ({ period: answer, time: answer, ages: aged.answer, lanes: lanes.list })[tab.value].value,
)
const failed = computed(
  () => ({ period: problem, time: problem, ages: aged.problem, lanes: lanes.problem })[tab.value].value,
)

function again() {
  if (tab.value === 'ages') aged.retry()
  else if (tab.value === 'lanes') lanes.retry()
  else retry()
}

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

const to = (query: Record<string, string | undefined>) => router.push({ query: { ...route.query, ...query } })

function ask(changed: Question) {
  const own = Object.fromEntries(
    ['show', 'each', 'closing_day', 'at', 'buckets', 'mix', 'sort'].map((name) => [name, text(name)]),
  )
  router.push({ query: { ...parameters(changed), ...own } })
}

/** The words of the sentence that are the page's own. */
const own = computed<Record<string, OwnWord>>(() => ({
  closing_day: {
    choices: ['in', 'out'],
    names: { in: 'the closing day counted', out: 'the closing day not counted' },
    chosen: text('closing_day') ?? 'in',
  },
  each: { choices: ['day', 'week', 'month', 'quarter', 'year'], chosen: each.value },
  at: {
    choices: [aged.answer.value?.at ?? ''].filter(Boolean),
    chosen: aged.answer.value?.at ?? '',
    example: '2026-03-16',
  },
}))

const of = (part: OpenPart): Question => ({ ...question.value, period: part.period.text || undefined })
const closing = computed(() => (text('closing_day') === 'out' ? 'out' : undefined))

function framed(a: Open, part: OpenPart) {
  const behind = (row: OpenRow, open: string) =>
    ordersBehind(
      {
        ...of(part),
        by: undefined,
        period: a.each ? `${row.from}/${row.to}` : part.period.text || undefined,
      },
      { open, closing_day: closing.value },
    )
  const row = part.rows[0]
  const picture =
    a.each || !row
      ? stockPicture(part, a, behind, tokens.value)
      : bridgePicture(row, (what) => behind(row, what), tokens.value)
  return {
    ...picture,
    sentence: a.parts.length > 1 ? `${a.sentence} (${part.period.text})` : a.sentence,
    below: [part.reconciliation_line],
    tokens: tokens.value,
  }
}

/** The orders of a bucket of ages, open at the end of a day. */
function ofAge(bucket: number, keys: readonly string[], day?: string) {
  const ages = aged.answer.value
  const at = day ?? ages?.at ?? ''
  const { youngest, oldest } = ages?.buckets[bucket] ?? {}
  const grouped = keys.length > 0 ? question.value : { ...question.value, by: undefined }
  return ordersBehind(
    { ...grouped, period: `${at}/${at}` },
    { open: 'at-end', youngest, oldest, group: keys },
  )
}
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="failed" :problem="failed" @retry="again" />
    <p v-if="failed && question.where" class="mend">
      Change the condition:
      <ConditionPicker :text="question.where" @pick="ask({ ...question, where: $event || undefined })" />
    </p>
    <template v-else-if="asked">
      <QuestionSentence
        :answer="asked"
        :question="question"
        :own="own"
        :list="tab === 'lanes'"
        @change="ask"
        @own="(slot, word) => to({ [slot]: word })"
      />
      <p class="also">
        <TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event })" />
        <label v-if="tab === 'ages'"
          >Buckets end at
          <input
            class="field"
            :value="text('buckets') ?? '2,5,10,20'"
            data-test="buckets"
            @change="to({ buckets: ($event.target as HTMLInputElement).value || undefined })"
        /></label>
        <label v-if="tab === 'ages'"
          >Over time
          <select
            class="field"
            :value="text('mix') ?? ''"
            data-test="mix"
            @change="to({ mix: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">no</option>
            <option v-for="step in own.each?.choices" :key="step" :value="step">each {{ step }}</option>
          </select></label
        >
        <label v-if="tab === 'lanes'"
          >Sorted
          <select
            class="field"
            :value="text('sort') ?? 'start'"
            data-test="lane-sort"
            @change="to({ sort: ($event.target as HTMLSelectElement).value })"
          >
            <option value="start">by start</option>
            <option value="age">the oldest first</option>
            <option value="length">the longest first</option>
          </select></label
        >
        <KeepView :sentence="asked.sentence" />
      </p>

      <template v-if="(tab === 'period' || tab === 'time') && answer">
        <section v-for="part in answer.parts" :key="part.period.from + part.period.to">
          <h2 v-if="answer.parts.length > 1">{{ part.period.text }}</h2>
          <ChartFrame v-bind="framed(answer, part)" />
          <OpenTable :answer="answer" :part="part" :question="of(part)" />
          <p v-if="part.all_groups > part.groups.length" class="muted">
            The first {{ count(part.groups.length) }} of {{ count(part.all_groups) }} groups.
          </p>
          <div class="below">
            <p data-test="reconciliation">{{ part.reconciliation_line }}</p>
            <p v-if="part.unplaced.length > 0" data-test="unplaced">
              Never open:
              <template v-for="(u, i) in part.unplaced" :key="u.state"
                >{{ i > 0 ? ', ' : ''
                }}<router-link
                  :to="ordersBehind({ ...of(part), by: undefined }, { open: u.state })"
                  :data-test="`unplaced-${u.state}`"
                  >{{ count(u.orders) }}</router-link
                >
                {{ u.label }}</template
              >
            </p>
            <p v-if="answer.each" class="muted">
              Open at some time overlaps between steps and is never added up.
            </p>
            <p v-for="note in part.notes" :key="note.code" class="amber">{{ note.text }}</p>
          </div>
        </section>
        <p v-if="answer.together" class="below" data-test="together">
          {{ answer.together.line }}
          <router-link
            :to="ordersBehind({ ...question, by: undefined }, { open: 'some-time', closing_day: closing })"
            >Its orders</router-link
          >
        </p>
      </template>

      <template v-else-if="tab === 'lanes' && lanes.list.value">
        <p v-if="lanes.list.value.all === 0" class="panel empty">No order was open then.</p>
        <template v-else>
          <p class="muted all" data-test="lanes-all">
            {{ counted(lanes.list.value.all, 'order') }} open at some time;
            <router-link :to="ordersBehind(question, { open: 'some-time', closing_day: closing })"
              >as a list</router-link
            >
          </p>
          <OrderLanes
            :lanes="lanes.list.value"
            :lane-at="lanes.rowAt"
            @need="(first, last) => lanes.need(first, last)"
            @open="to({ order: $event })"
          />
        </template>
      </template>

      <template v-else-if="tab === 'ages' && aged.answer.value">
        <ChartFrame
          v-bind="agesPicture(aged.answer.value, ofAge, tokens)"
          :sentence="aged.answer.value.sentence"
          :below="[`${count(aged.answer.value.total.orders)} orders open`]"
          :tokens="tokens"
        />
        <AgesTable :ages="aged.answer.value" :behind="ofAge" />
      </template>
    </template>
    <p v-else-if="!failed" class="muted">Asking …</p>
    <OrderSheet
      v-if="text('order')"
      :key="text('order')"
      :number="text('order') ?? ''"
      :question="question"
      @close="to({ order: undefined })"
    />
  </div>
</template>

<style scoped>
.field {
  max-width: 150px;
}

.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}

.all {
  margin: 0 4px 8px;
  font-size: 0.9rem;
}

.empty {
  padding: 28px;
}
</style>
