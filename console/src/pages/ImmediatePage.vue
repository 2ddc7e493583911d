<script setup lang="ts">
import { computed, defineAsyncComponent, inject } from 'vue'
import { type RouteLocationRaw, useRoute, useRouter } from 'vue-router'
import { useTheme } from 'vuetify'
import type { AskingCustomers, Immediate, ImmediateGroup, ImmediatePart } from '@/api/client'
import { immediatePicture, rateWords } from '@/charts/immediate'
import ConditionPicker from '@/components/ConditionPicker.vue'
import ImmediateTable from '@/components/ImmediateTable.vue'
import KeepView from '@/components/KeepView.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import StateNotice from '@/components/StateNotice.vue'
import TabRow from '@/components/TabRow.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count, counted, withWeekday } from '@/format'
import { BOOK } from '@/keys'
import { ordersBehind, type OwnWord, type Question } from '@/question'
import { dark, light } from '@/theme'

const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const route = useRoute()
const router = useRouter()
const book = inject(BOOK)
const text = (name: string) =>
  typeof route.query[name] === 'string' && route.query[name] ? route.query[name] : undefined

const tabs = { rates: 'Rates', customers: 'Customers' } as const
type Tab = keyof typeof tabs
const tab = computed<Tab>(() => (text('show') === 'customers' ? 'customers' : 'rates'))

const words = ['basis', 'period', 'got', 'no_requested_date', 'cancelled', 'where'] as const
const asking = computed(() => Object.fromEntries(words.map((name) => [name, text(name)])))
const rates = useAnswer<Immediate>(() =>
  tab.value === 'rates'
    ? { path: '/immediate', query: { ...asking.value, orders: text('orders'), by: text('by') } }
    : undefined,
)
const offset = computed(() => Number(text('offset') ?? 0) || 0)
const page = 100
const asked = useAnswer<AskingCustomers>(() =>
  tab.value === 'customers'
    ? {
        path: '/immediate/customers',
        query: { ...asking.value, change: text('change'), offset: offset.value, limit: page },
      }
    : undefined,
)
const now = computed(() => (tab.value === 'rates' ? rates : asked))

const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))
const to = (query: Record<string, string | undefined>) =>
  router.push({ query: { ...route.query, offset: undefined, ...query } })

const question = computed<Question>(() => ({
  basis: text('basis'),
  period: text('period'),
  by: text('by'),
  where: text('where'),
}))
const ask = (changed: Question) =>
  to({ basis: changed.basis, period: changed.period, by: changed.by, where: changed.where })

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
      out: 'those without a requested date left out',
      in: 'those without a requested date counted as a no',
    },
    chosen: text('no_requested_date') ?? 'out',
  },
  cancelled: {
    choices: ['in', 'out'],
    names: { in: 'cancelled ones counted', out: 'cancelled ones left out' },
    chosen: text('cancelled') ?? 'in',
  },
  got: { choices: ['shipped', 'delivered'], chosen: text('got') ?? 'shipped' },
}))

const columns = 'number,customer,site,ordered,requested,asked,first-order,shipped,delivered'

/** The orders behind a number, their two days and the yes or no side by side. */
function behind(what: string, g?: ImmediateGroup, period = text('period')): RouteLocationRaw {
  const keys = g?.keys ?? []
  const list = ordersBehind(
    { basis: text('basis'), period, where: text('where'), by: keys.length > 0 ? text('by') : undefined },
    { immediate: what, which: text('orders'), got: text('got'), cancelled: text('cancelled'), group: keys },
  ) as { path: string; query: Record<string, unknown> }
  return { ...list, query: { ...list.query, columns } } as RouteLocationRaw
}

function framed(a: Immediate, part: ImmediatePart) {
  return {
    ...immediatePicture(a, part, (what, g) => behind(what, g, part.period.text || undefined), tokens.value),
    sentence: a.parts.length > 1 ? `${a.sentence} (${part.period.text})` : a.sentence,
    below: [part.reconciliation_line],
    tokens: tokens.value,
  }
}
const named = ['no-ordered-day', 'no-customer', 'not-first', 'cancelled']
</script>

<template>
  <div :aria-busy="now.loading.value">
    <StateNotice v-if="now.problem.value" :problem="now.problem.value" @retry="now.retry" />
    <p v-if="now.problem.value && question.where" class="mend">
      Change the condition:
      <ConditionPicker :text="question.where" @pick="ask({ ...question, where: $event || undefined })" />
    </p>
    <template v-else-if="now.answer.value">
      <QuestionSentence
        :answer="now.answer.value"
        :question="question"
        :own="own"
        :list="tab === 'customers'"
        @change="ask"
        @own="(slot, word) => to({ [slot]: word })"
      />
      <p class="also">
        <TabRow :tabs="tabs" :shown="tab" @show="to({ show: $event === 'rates' ? undefined : $event })" />
        <label v-if="tab === 'rates' && !text('by')"
          >By
          <select
            class="field"
            value=""
            data-test="by"
            @change="to({ by: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">nothing</option>
            <option v-for="g in book?.groupings" :key="g" :value="g">{{ g }}</option>
          </select></label
        >
        <label v-if="tab === 'customers'"
          >Who changed
          <select
            class="field"
            :value="text('change') ?? ''"
            data-test="change"
            @change="to({ change: ($event.target as HTMLSelectElement).value || undefined })"
          >
            <option value="">or not</option>
            <option value="ahead-then-immediate">first booked ahead, then immediate</option>
            <option value="immediate-then-ahead">first immediate, then booked ahead</option>
          </select></label
        >
        <KeepView :sentence="now.answer.value.sentence" />
      </p>
      <template v-if="tab === 'rates' && rates.answer.value">
        <section v-for="part in rates.answer.value.parts" :key="part.period.from + part.period.to">
          <h2 v-if="rates.answer.value.parts.length > 1">{{ part.period.text }}</h2>
          <ChartFrame v-bind="framed(rates.answer.value, part)" />
          <ImmediateTable
            :answer="rates.answer.value"
            :part="part"
            :behind="(what, g) => behind(what, g, part.period.text || undefined)"
          />
          <p v-if="part.all_groups > part.groups.length" class="muted">
            The first {{ count(part.groups.length) }} of {{ count(part.all_groups) }} groups.
          </p>
          <div class="below">
            <p data-test="reconciliation">{{ part.reconciliation_line }}</p>
            <p>{{ part.placement_line }}</p>
            <p v-if="part.left_out.some((k) => named.includes(k.name))" data-test="left-out">
              Left out:
              <template v-for="(k, i) in part.left_out.filter((k) => named.includes(k.name))" :key="k.name"
                >{{ i > 0 ? ', ' : ''
                }}<router-link
                  :to="behind(`left:${k.name}`, undefined, part.period.text || undefined)"
                  :data-test="`left-${k.name}`"
                  >{{ count(k.orders) }}</router-link
                >
                {{ k.label }}</template
              >
            </p>
            <p v-for="note in part.notes" :key="note.code" class="amber">{{ note.text }}</p>
          </div>
        </section>
      </template>
      <template v-else-if="asked.answer.value">
        <p class="muted changes" data-test="changes">
          {{ counted(asked.answer.value.all, 'customer') }};
          <template v-for="(k, i) in asked.answer.value.changes.slice(1)" :key="k.name"
            >{{ i > 0 ? '; ' : '' }}{{ k.label }}: {{ count(k.orders) }}</template
          >
          <button
            v-if="offset > 0"
            type="button"
            class="link"
            @click="to({ offset: String(Math.max(0, offset - page)) })"
          >
            before
          </button>
          <button
            v-if="offset + page < asked.answer.value.all"
            type="button"
            class="link"
            @click="to({ offset: String(offset + page) })"
          >
            next
          </button>
        </p>
        <div class="scroll panel" tabindex="0" role="region" aria-label="Customers">
          <table class="plain" data-test="customers">
            <thead>
              <tr>
                <th scope="col">customer</th>
                <th scope="col">first order</th>
                <th scope="col">on</th>
                <th scope="col">asked then</th>
                <th class="number" scope="col">later orders</th>
                <th class="number" scope="col">later immediate</th>
                <th class="number" scope="col">%</th>
                <th scope="col" />
              </tr>
            </thead>
            <tbody>
              <tr v-for="c in asked.answer.value.customers" :key="c.customer">
                <td>{{ c.customer }}</td>
                <td>
                  <button type="button" class="link" @click="to({ order: c.number, offset: text('offset') })">
                    {{ c.number }}
                  </button>
                </td>
                <td>{{ withWeekday(c.first) }}</td>
                <td>{{ c.asked }}</td>
                <td class="number">{{ count(c.orders) }}</td>
                <td class="number">{{ rateWords(c.later) }}</td>
                <td class="number">{{ c.later.all > 0 ? c.later.percent : '' }}</td>
                <td class="amber">
                  {{ c.tied ? 'another order that day' : '' }}
                  {{ c.change === 'none' ? '' : c.change.replaceAll('-', ' ') }}
                </td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
    </template>
    <p v-else-if="!now.problem.value" class="muted">Asking …</p>
    <OrderSheet
      v-if="text('order')"
      :key="text('order')"
      :number="text('order') ?? ''"
      :question="{}"
      @close="to({ order: undefined, offset: text('offset') })"
    />
  </div>
</template>

<style scoped>
.field {
  max-width: 220px;
}

.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}

.changes {
  margin: 0 4px 8px;
  font-size: 0.9rem;
}
</style>
