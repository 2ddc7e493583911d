<script setup lang="ts">
import { computed, inject } from 'vue'
import { cellOf, type Document, tableOf } from '@/api/document'
import AnswerFrame from '@/components/AnswerFrame.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import PageTurner from '@/components/PageTurner.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { BOOK } from '@/keys'
import type { OwnWord } from '@/question'

// Which orders are due, which of them are late and which at risk. Each number of the line lists its orders.
const pageSize = 50

const book = inject(BOOK)
const { text, some, to, offset, closeOrder } = useAddress()
const standing = computed(() => text('standing') ?? 'overdue,at-risk')
const asked = computed(() => ({
  path: '/due',
  query: {
    ...some(['to', 'plan', 'after', 'within', 'period', 'where', 'standing']),
    offset: offset.value,
    limit: pageSize,
  },
}))
const { answer, problem, loading, retry } = useAnswer<Document>(asked)

/** The words of the question that can be changed; a rule is a plan, or so many working days after the order. */
const known = computed(() => book?.value?.milestones.filter((m) => m.first) ?? [])
const days = ['1', '2', '3', '5', '8', '10', '15', '20']
const isDays = (word: string) => /^\d+$/.test(word)
const own = computed<Record<string, OwnWord>>(() => ({
  to: {
    choices: known.value
      .filter((m) => !m.plan && !['ordered', 'cancelled'].includes(m.name))
      .map((m) => m.name),
    chosen: text('to') ?? 'shipped',
  },
  period: {
    choices: ['any time', ...(book?.value?.periods ?? [])],
    chosen: text('period') ?? 'any time',
    example: '2026-11-02/2026-11-13',
  },
  rule: {
    choices: [...known.value.filter((m) => m.plan).map((m) => m.name), ...days],
    names: Object.fromEntries(days.map((n) => [n, `${n} working days after the order date`])),
    chosen: text('after') ?? text('plan') ?? (text('to') === 'delivered' ? 'expected' : 'promised'),
    example: '12',
  },
  within: { choices: ['0', '1', '2', '3', '5', '10'], chosen: text('within') ?? '5', example: '4' },
}))
function pick(slot: string, word: string) {
  if (slot === 'rule') to({ after: isDays(word) ? word : undefined, plan: isDays(word) ? undefined : word })
  else if (slot === 'to') to({ to: word, plan: undefined })
  else to({ [slot]: word === 'any time' ? undefined : word })
}

const standings = computed(() => {
  const table = tableOf(answer.value?.parts[0], 'standings')
  return table.rows
    .map((row) => ({
      code: cellOf(table, row, 'standing').text,
      label: cellOf(table, row, 'label').text,
      orders: cellOf(table, row, 'orders'),
    }))
    .filter((s) => s.orders.number)
})
const all = computed(() => tableOf(answer.value?.parts[0], 'due').all)
const tone = (code: string) => ({ overdue: 'late', 'at-risk': 'risk' })[code] ?? ''
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="{ where: text('where') }"
    :own="own"
    list
    :asked="asked"
    label="Orders"
    @change="to({ where: $event.where })"
    @own="pick"
    @retry="retry"
    @open="to({ order: $event, offset: offset || undefined })"
  >
    <template #tools>
      <v-btn v-if="standing !== 'overdue,at-risk'" @click="to({ standing: undefined })"
        >Late and at risk</v-btn
      >
      <v-btn v-if="standing !== 'all'" @click="to({ standing: 'all' })">All</v-btn>
    </template>
    <template #before>
      <div class="standings" data-test="standings">
        <v-btn
          v-for="s in standings"
          :key="s.code"
          variant="outlined"
          color="on-surface"
          height="auto"
          :class="['standing', tone(s.code), { chosen: standing.split(',').includes(s.code) }]"
          :aria-pressed="standing.split(',').includes(s.code)"
          :data-test="`standing-${s.code}`"
          @click="to({ standing: s.code })"
        >
          <span
            ><b>{{ s.orders.text }}</b> {{ s.label }}</span
          >
        </v-btn>
      </div>
    </template>
  </AnswerFrame>
  <PageTurner :offset="offset" :size="pageSize" :all="all" @turn="to({ offset: $event || undefined })" />
  <OrderSheet
    v-if="text('order')"
    :key="text('order')"
    :number="text('order') ?? ''"
    :question="{ to: text('to') }"
    @close="closeOrder"
  />
</template>

<style scoped>
.standings {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-bottom: 14px;
}

.standing {
  padding: 8px 14px;
  text-align: left;
  background: rgb(var(--v-theme-surface));
}

.standing b {
  display: block;
  font-size: 1.25rem;
}

.late b {
  color: rgb(var(--v-theme-error));
}

.risk b {
  color: rgb(var(--v-theme-secondary));
}

.chosen {
  border-color: rgb(var(--v-theme-secondary));
  box-shadow: inset 0 -3px rgb(var(--v-theme-secondary));
}
</style>
