<script setup lang="ts">
import { computed, inject } from 'vue'
import type { Document, Part } from '@/api/document'
import { immediatePicture } from '@/charts/immediate'
import ChoiceField from '@/components/ChoiceField.vue'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import PageTurner from '@/components/PageTurner.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import TabRow from '@/components/TabRow.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { useTokens } from '@/composables/useTokens'
import { BOOK } from '@/keys'
import { groupingNames, type OwnWord, type Question } from '@/question'

const { text, some, to, offset, closeOrder } = useAddress()
const book = inject(BOOK)

const tabs = { rates: 'Rates', customers: 'Customers' } as const
const tab = computed(() => (text('show') === 'customers' ? 'customers' : 'rates'))
const page = 100

const common = computed(() => some(['basis', 'period', 'cancelled', 'where']))
const asked = computed(() =>
  tab.value === 'rates'
    ? {
        path: '/immediate',
        query: { ...common.value, ...some(['orders', 'by', 'achieved', 'no_requested_date']) },
      }
    : {
        path: '/immediate/customers',
        query: { ...common.value, change: text('change'), offset: offset.value, limit: page },
      },
)
const { answer, problem, loading, retry } = useAnswer<Document>(asked)

const question = computed<Question>(() => ({ basis: 'ordered', ...some(['basis', 'period', 'by', 'where']) }))
const ask = ({ basis, period, by, where }: Question) => to({ basis, period, by, where })

const own = computed<Record<string, OwnWord>>(() => ({
  orders: {
    choices: ['all', 'first', 'first-within'],
    names: {
      all: 'all orders',
      first: 'customers’ first orders, in the whole book',
      'first-within': 'the first orders within the selection',
    },
    chosen: text('orders') ?? (tab.value === 'customers' ? 'first' : 'all'),
  },
  no_requested_date: {
    choices: ['out', 'in'],
    names: {
      out: 'orders without a requested date left out',
      in: 'orders without a requested date counted as a no',
    },
    chosen: text('no_requested_date') ?? 'out',
  },
  cancelled: {
    choices: ['in', 'out'],
    names: { in: 'cancelled orders counted', out: 'cancelled orders left out' },
    chosen: text('cancelled') ?? 'in',
  },
  achieved: { choices: ['shipped', 'delivered'], chosen: text('achieved') ?? 'shipped' },
}))

const changes = {
  '': 'or not',
  'ahead-then-immediate': 'first booked ahead, then immediate',
  'immediate-then-ahead': 'first immediate, then booked ahead',
}

/** The two days and the yes or no side by side. */
const columns = 'number,customer,site,ordered,requested,asked,first-order,shipped,delivered'

const tokens = useTokens()
const sentence = computed(() => answer.value?.sentence.map((w) => w.text).join('') ?? '')
function framed(part: Part) {
  return {
    ...immediatePicture(part, text('achieved') ?? 'shipped', columns, tokens.value),
    sentence: part.title ? `${sentence.value} (${part.title})` : sentence.value,
    below: part.lines.slice(0, 1).map((l) => l.text),
    tokens: tokens.value,
  }
}
const customers = computed(() => answer.value?.parts[0]?.tables.find((t) => t.code === 'customers'))
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="question"
    :own="own"
    :list="tab === 'customers'"
    :asked="asked"
    label="Rates"
    :columns="columns"
    @change="ask"
    @own="(slot, word) => to({ [slot]: word })"
    @retry="retry"
    @open="to({ order: $event, offset: text('offset') })"
  >
    <template #tools>
      <TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event === 'rates' ? undefined : $event })" />
      <ChoiceField
        v-if="tab === 'rates' && !text('by')"
        label="By"
        model-value=""
        :choices="{ '': 'nothing', ...groupingNames(book?.groupings ?? [], book?.milestones) }"
        data-test="by"
        @update:model-value="to({ by: $event })"
      />
      <ChoiceField
        v-if="tab === 'customers'"
        label="Who changed"
        :model-value="text('change') ?? ''"
        :choices="changes"
        data-test="change"
        @update:model-value="to({ change: $event })"
      />
    </template>
    <template #picture="{ part }"><ChartFrame v-if="tab === 'rates'" v-bind="framed(part)" /></template>
  </AnswerFrame>
  <PageTurner
    v-if="customers"
    :offset="offset"
    :size="page"
    :all="customers.all"
    @turn="to({ offset: $event || undefined })"
  />
  <OrderSheet
    v-if="text('order')"
    :key="text('order')"
    :number="text('order') ?? ''"
    :question="{}"
    @close="closeOrder"
  />
</template>
