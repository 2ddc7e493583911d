<script setup lang="ts">
import { computed, defineAsyncComponent, inject } from 'vue'
import { type RouteLocationRaw, useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import type { Asked, StatusAnswer, StatusGroup, StatusList, StatusMoves, StatusStays } from '@/api/client'
import { latestPicture, movesPicture, timesPicture } from '@/charts/status'
import ConditionPicker from '@/components/ConditionPicker.vue'
import KeepView from '@/components/KeepView.vue'
import MovesTables from '@/components/MovesTables.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import StateNotice from '@/components/StateNotice.vue'
import StatusListEditor from '@/components/StatusListEditor.vue'
import StatusTable from '@/components/StatusTable.vue'
import StaysTable from '@/components/StaysTable.vue'
import TabRow from '@/components/TabRow.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count, counted } from '@/format'
import { BOOK } from '@/keys'
import { ordersBehind, type OwnWord, type Question } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const route = useRoute()
const router = useRouter()
const book = inject(BOOK)
const text = (name: string) =>
  typeof route.query[name] === 'string' && route.query[name] ? route.query[name] : undefined

const tabs = {
  latest: 'Where they stand',
  times: 'How long',
  moves: 'Moves',
  stays: 'Stays',
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
  moves: ['period'],
  stays: ['period', 'status', 'sort'],
  list: [],
}
const shared = ['in', 'calendar', 'source', 'max_gap', 'where']
const asking = computed(() =>
  Object.fromEntries(
    [...shared, ...takes[tab.value]]
      .filter((name) => name !== 'by' || !(tab.value === 'times' && text('each')))
      .map((name) => [name, text(name)]),
  ),
)

const told = useAnswer<StatusAnswer>(() =>
  tab.value === 'latest' || tab.value === 'times'
    ? { path: `/status/${tab.value}`, query: asking.value }
    : undefined,
)
const moved = useAnswer<StatusMoves>(() =>
  tab.value === 'moves' ? { path: '/status/moves', query: asking.value } : undefined,
)
const offset = computed(() => Number(text('offset') ?? 0) || 0)
const page = 100
const stayed = useAnswer<StatusStays>(() =>
  tab.value === 'stays'
    ? { path: '/status/stays', query: { ...asking.value, offset: offset.value, limit: page } }
    : undefined,
)
const listed = useAnswer<StatusList>(() => ({ path: '/statuses', query: {} }))

const now = computed(
  () => ({ latest: told, times: told, moves: moved, stays: stayed, list: listed })[tab.value],
)
const asked = computed(() =>
  tab.value === 'list' ? undefined : (now.value.answer.value as Asked | undefined),
)
/** While another tab's answer is on its way, the last one is not shown under its name. */
const answer = computed(() => {
  const a = told.answer.value
  return a && (tab.value === 'latest') === a.sentence.startsWith('Where') ? a : undefined
})
const none = computed(() => listed.answer.value?.statuses.length === 0)

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

const to = (query: Record<string, string | undefined>) =>
  router.push({ query: { ...route.query, offset: undefined, ...query } })

const question = computed<Question>(() => ({
  in: text('in'),
  calendar: text('calendar'),
  period: text('period'),
  by: text('by'),
  where: text('where'),
}))
const ask = (changed: Question) =>
  to({ ...changed, from: undefined, to: undefined, basis: undefined, count: undefined })

const own = computed<Record<string, OwnWord>>(() => ({
  at: {
    choices: [answer.value?.at ?? ''].filter(Boolean),
    chosen: answer.value?.at ?? '',
    example: '2026-03-16',
  },
  each: { choices: ['day', 'week', 'month', 'quarter', 'year'], chosen: text('each') ?? 'month' },
  source: {
    choices: ['either', 'event', 'daily'],
    names: {
      either: 'events, else the daily list',
      event: 'events alone',
      daily: 'the daily list alone',
    },
    chosen: text('source') ?? 'either',
  },
  max_gap: {
    choices: ['1', '2', '3', '5', '7', '14'],
    chosen: text('max_gap') ?? '',
    example: '10, in days',
  },
}))

/** The orders behind a number, in the period of stays or at the day that was asked about, with their statuses. */
function behind(status: string, group?: StatusGroup, period = text('period')) {
  const grouped = tab.value === 'latest' || !text('each') ? text('by') : undefined
  const keys = grouped && group && group.keys.length > 0 ? group.keys : []
  const list = ordersBehind(
    { where: text('where'), by: keys.length > 0 ? grouped : undefined, period },
    {
      status,
      at: tab.value === 'latest' ? text('at') : undefined,
      source: text('source'),
      max_gap: text('max_gap'),
      group: keys,
    },
  ) as { path: string; query: Record<string, unknown> }
  const columns = 'number,customer,site,ordered,shipped,status,status-since,status-age,returns'
  return { ...list, query: { ...list.query, columns } } as RouteLocationRaw
}
const inGroup = (keys: readonly string[]) => ({ keys }) as StatusGroup
const step = (g: StatusGroup) => (g.from && g.to ? `${g.from}/${g.to}` : undefined)

function framed(a: StatusAnswer) {
  const picture =
    tab.value === 'latest'
      ? latestPicture(a, (status, keys) => behind(`latest:${status}`, inGroup(keys)), tokens.value)
      : timesPicture(
          a,
          (status, days) =>
            behind(`visited:${status}`, undefined, days ? `${days.from}/${days.to}` : text('period')),
          tokens.value,
        )
  return { ...picture, sentence: a.sentence, below: [a.reconciliation_line], tokens: tokens.value }
}
const notes = computed(() => (now.value.answer.value as StatusAnswer | undefined)?.notes ?? [])
const lines = computed(() => {
  const a = now.value.answer.value as StatusAnswer | undefined
  return [a?.reconciliation_line, a?.placement_line].filter(Boolean)
})
</script>

<template>
  <div :aria-busy="now.loading.value">
    <StateNotice v-if="now.problem.value" :problem="now.problem.value" @retry="now.retry" />
    <p v-if="now.problem.value && question.where" class="mend">
      Change the condition:
      <ConditionPicker :text="question.where" @pick="ask({ ...question, where: $event || undefined })" />
    </p>
    <template v-else-if="asked || tab === 'list'">
      <QuestionSentence
        v-if="asked"
        :answer="asked"
        :question="question"
        :own="own"
        list
        @change="ask"
        @own="(slot, word) => to({ [slot]: word })"
      />
      <h1 v-else>Which statuses are there, in which order, and which of them end an order?</h1>
      <p class="also">
        <TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event === 'latest' ? undefined : $event })" />
        <label v-if="(tab === 'latest' || tab === 'times') && !(tab === 'times' && text('each'))"
          >By
          <select
            class="field"
            :value="text('by') ?? ''"
            data-test="by"
            @change="to({ by: ($event.target as HTMLSelectElement).value || undefined })"
          >
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
            @change="to({ each: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">no</option>
            <option v-for="c in own.each?.choices" :key="c" :value="c">each {{ c }}</option>
          </select></label
        >
        <label v-if="tab !== 'list' && text('source') === 'daily'"
          >Silent for at most
          <select
            class="field"
            :value="text('max_gap') ?? ''"
            data-test="max-gap"
            @change="to({ max_gap: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">any time</option>
            <option v-for="c in own.max_gap?.choices" :key="c" :value="c">
              {{ counted(Number(c), 'day') }}
            </option>
          </select></label
        >
        <label v-if="tab === 'stays'"
          >Of
          <select
            class="field"
            :value="text('status') ?? ''"
            data-test="of-status"
            @change="to({ status: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">every status</option>
            <option v-for="s in listed.answer.value?.statuses" :key="s.name" :value="s.name">
              {{ s.name }}
            </option>
            <option value="not seen">not seen</option>
          </select></label
        >
        <label v-if="tab === 'stays'"
          >Sorted
          <select
            class="field"
            :value="text('sort') ?? 'order'"
            data-test="stay-sort"
            @change="to({ sort: ($event.target as HTMLSelectElement).value })"
          >
            <option value="order">by order</option>
            <option value="length">the longest first</option>
            <option value="from">the latest first</option>
          </select></label
        >
        <KeepView v-if="asked" :sentence="asked.sentence" />
      </p>
      <p v-if="none" class="panel empty">
        No status records are in the book. A file with the columns order, status and at brings them:
        <router-link to="/import">Import</router-link>.
      </p>

      <template v-else-if="answer && (tab === 'latest' || tab === 'times')">
        <ChartFrame v-bind="framed(answer)" />
        <StatusTable
          :answer="answer"
          :times="tab === 'times'"
          :behind="
            (status, g) =>
              tab === 'latest'
                ? behind(`latest:${status}`, g)
                : behind(`visited:${status}`, g, step(g) ?? text('period'))
          "
          :without="(g) => behind('none', g)"
        />
        <p v-if="answer.all_groups > answer.groups.length" class="muted below">
          The first {{ count(answer.groups.length) }} of {{ count(answer.all_groups) }} groups.
        </p>
      </template>

      <template v-else-if="tab === 'moves' && moved.answer.value">
        <MovesTables :moves="moved.answer.value" :behind="(status) => behind(status)">
          <ChartFrame
            v-bind="movesPicture(moved.answer.value, (a, b) => behind(`moved:${a} → ${b}`), tokens)"
            :sentence="moved.answer.value.sentence"
            :below="[moved.answer.value.reconciliation_line]"
            :tokens="tokens"
          />
        </MovesTables>
      </template>

      <template v-else-if="tab === 'stays' && stayed.answer.value">
        <p class="muted all" data-test="stays-all">
          {{ count(Math.min(offset + 1, stayed.answer.value.all)) }} to
          {{ count(offset + stayed.answer.value.stays.length) }} of
          {{ counted(stayed.answer.value.all, 'stay') }}
          <button
            v-if="offset > 0"
            type="button"
            class="link"
            @click="to({ offset: String(Math.max(0, offset - page)) })"
          >
            before
          </button>
          <button
            v-if="offset + page < stayed.answer.value.all"
            type="button"
            class="link"
            data-test="next-stays"
            @click="to({ offset: String(offset + page) })"
          >
            next
          </button>
        </p>
        <StaysTable :stays="stayed.answer.value" @open="to({ order: $event, offset: text('offset') })" />
      </template>

      <StatusListEditor
        v-else-if="tab === 'list' && listed.answer.value"
        :list="listed.answer.value"
        @saved="listed.retry"
      />
      <div v-if="tab !== 'list' && !none" class="below">
        <p v-for="line in lines" :key="line" data-test="reconciliation">{{ line }}</p>
        <p v-for="note in notes" :key="note.code" class="amber">
          {{ note.text
          }}<router-link
            v-if="note.code === 'ambiguous' || note.code === 'disagreeing'"
            class="which"
            :to="behind(note.code)"
            >which ones</router-link
          >
        </p>
      </div>
    </template>
    <p v-else-if="!now.problem.value" class="muted">Asking …</p>
    <OrderSheet
      v-if="text('order')"
      :key="text('order')"
      :number="text('order') ?? ''"
      :question="{ in: text('in'), calendar: text('calendar') }"
      @close="to({ order: undefined, offset: text('offset') })"
    />
  </div>
</template>

<style scoped>
.field {
  max-width: 170px;
}

h1 {
  margin-bottom: 22px;
}

.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}

.which {
  margin-left: 8px;
}

.all {
  margin: 0 4px 8px;
  font-size: 0.9rem;
  display: flex;
  gap: 14px;
}

.empty {
  padding: 28px;
}
</style>
