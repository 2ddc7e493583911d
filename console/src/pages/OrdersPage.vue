<script setup lang="ts">
import { mdiCheckAll, mdiPrinterOutline } from '@mdi/js'
import { computed, nextTick, ref } from 'vue'
import { type RouteLocationRaw, useRoute } from 'vue-router'
import AnswerLines from '@/components/AnswerLines.vue'
import ColumnPicker from '@/components/ColumnPicker.vue'
import ConditionPicker from '@/components/ConditionPicker.vue'
import SaveView from '@/components/SaveView.vue'
import HighlightPicker from '@/components/HighlightPicker.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import OrdersList from '@/components/OrdersList.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import StateNotice from '@/components/StateNotice.vue'
import ExportMenu from '@/components/ExportMenu.vue'
import WordPicker from '@/components/WordPicker.vue'
import { questionOf as addressOf } from '@/api/check'
import { askedOf, tableOf } from '@/api/document'
import { useAddress } from '@/composables/useAddress'
import { useList } from '@/composables/useList'
import { count } from '@/format'
import { parameters, questionOf, selectionOf } from '@/question'
import { styles, highlightWords } from '@/columns'

const route = useRoute()
const { to: change, closeOrder } = useAddress()
/** What plays no part in a list is left behind. */
const question = computed(() => ({
  ...questionOf(route.query),
  through: undefined,
  promise: undefined,
  over: undefined,
  at_least: undefined,
}))
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : '')
/** What the lengths in the list are of: the question, or that of the number that the orders stand behind. */
const measured = computed(() => {
  const [, asked] = text('behind').split('?')
  return asked === undefined ? question.value : questionOf(Object.fromEntries(new URLSearchParams(asked)))
})
const opened = computed(() => text('order'))
const highlights = computed(() => [route.query.highlight ?? []].flat().flatMap((m) => m ?? []))

/** What the list shows, in the words of the service. */
const words = computed(() => ({
  ...parameters(question.value),
  ...selectionOf(route.query),
  sort: text('sort') || undefined,
  columns: text('columns') || undefined,
  rows: text('rows') || undefined,
  highlight: highlights.value,
}))
const { list, problem, loading, need, load, rowAt, retry } = useList(() => words.value)
const part = computed(() => list.value?.parts[0])
const table = computed(() => tableOf(part.value, 'orders'))
const highlighted = computed(() => table.value.highlights ?? [])
/** What stands below the list takes some of the window. */
const below = computed(
  () =>
    34 * ((part.value?.lines.length ?? 0) + (part.value?.notes.length ?? 0)) +
    (highlighted.value.length > 0 ? 34 : 0),
)
const shown = computed(() => text('rows') || 'orders')

/** The list of a term of a line: the question of its address, with the columns of this list. */
function listOf(address: string | undefined): RouteLocationRaw {
  const asked = new URLSearchParams(address?.split('?')[1])
  return { query: { ...Object.fromEntries(asked), columns: text('columns') || undefined } }
}

function where(condition: string) {
  change({ where: condition || undefined })
}

/** A printed list has as many rows at most. */
const mostPrinted = 5000
const printing = ref(false)
const whole = ref(0)
async function print() {
  printing.value = true
  const rows = Math.min(table.value.all, mostPrinted)
  try {
    await load(rows)
    whole.value = rows
    await nextTick()
    window.print()
  } finally {
    whole.value = 0
    printing.value = false
  }
}

/** What has a row, and how it reads. */
const rows = { orders: 'order', lines: 'line', shipments: 'shipment', payments: 'payment' }
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <p v-if="problem" class="mend">
      <template v-if="question.where"
        >Change the condition: <ConditionPicker :text="question.where" @pick="where" />.
      </template>
      <router-link :to="{ query: { ...parameters(question), where: undefined } }"
        >Begin with the usual columns</router-link
      >
    </p>
    <template v-else-if="list">
      <QuestionSentence
        :answer="askedOf(list, measured)"
        :question="question"
        list
        @change="change({ ...$event })"
      />
      <p class="selected" data-test="selected">
        <span class="which">{{ table.title }}:</span> <b>{{ count(table.orders ?? 0) }}</b>
        {{ table.orders === 1 ? 'order' : 'orders' }} in <b data-test="all-rows">{{ count(table.all) }}</b>
        {{ table.all === 1 ? 'row' : 'rows' }}, one for each
        <WordPicker
          slot-name="rows"
          :text="rows[shown as keyof typeof rows]"
          :choices="Object.keys(rows)"
          :names="rows"
          :chosen="shown"
          @pick="change({ rows: $event === 'orders' ? undefined : $event })"
        />
      </p>
      <div class="also tools">
        <ColumnPicker :columns="table.columns" @pick="change({ columns: $event })" />
        <HighlightPicker
          :highlights="highlighted"
          :columns="table.columns"
          @pick="change({ highlight: $event })"
        />
        <SaveView :sentence="list.sentence.map((w) => w.text).join('')" />
        <ExportMenu path="/orders-file" contacts :query="words" :rows="table.all" />
        <v-btn :prepend-icon="mdiPrinterOutline" :loading="printing" data-test="print" @click="print"
          >Print</v-btn
        >
        <v-btn
          :prepend-icon="mdiCheckAll"
          :to="{ path: '/check', query: { question: addressOf({ path: '/orders', query: words }) } }"
          data-test="check-this"
          >Check</v-btn
        >
        <router-link :to="{ path: '/how-long', query: { ...parameters(measured) } }"
          >How long they took</router-link
        >
      </div>
      <OrdersList
        :list="table"
        :below="below"
        :row-at="rowAt"
        :opened="opened"
        :whole="whole"
        @need="need"
        @sort="change({ sort: $event })"
        @columns="change({ columns: $event })"
        @open="change({ order: $event })"
      />
      <p v-if="highlighted.length > 0" class="legend" data-test="legend">
        <span v-for="(m, i) in highlighted" :key="m.text" :class="`highlight-${m.style}`"
          >{{ i + 1 }}. {{ styles[m.style] }} {{ highlightWords(m, table.columns) }}</span
        >
      </p>
      <AnswerLines v-if="part" class="lines" :part="part" :to="listOf" />
    </template>
    <p v-else class="muted">Looking them up …</p>
    <OrderSheet v-if="opened" :key="opened" :number="opened" :question="measured" @close="closeOrder" />
  </div>
</template>

<style scoped>
:deep(h1) {
  font-size: 1.15rem;
  line-height: 1.5;
  margin-bottom: 6px;
}

.selected {
  margin-bottom: 10px;
  font-size: 0.92rem;
}

.which {
  display: inline-block;
}

.which::first-letter {
  text-transform: uppercase;
}

.tools {
  margin: 0 0 8px -12px;
}

.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
  font-size: 0.85rem;
}

.legend span {
  background: var(--highlight, transparent);
  padding: 1px 8px;
  border-radius: 6px;
}

.lines {
  margin: 10px 0 0;
}

.mend {
  margin-top: 10px;
  font-size: 0.9rem;
}
</style>
