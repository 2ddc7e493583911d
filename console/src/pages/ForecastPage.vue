<script setup lang="ts">
import { computed } from 'vue'
import type { Document, Part } from '@/api/document'
import { forecastPicture } from '@/charts/forecast'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { useTokens } from '@/composables/useTokens'
import type { Question } from '@/question'

// How well forecasts of the ship date would have held; those of today are columns of the list of orders.
const { some, to } = useAddress()
const asked = computed(() => ({ path: '/forecast', query: some(['period', 'where']) }))
const { answer, problem, loading, retry } = useAnswer<Document>(asked)
const question = computed<Question>(() => some(['period', 'where']))
const ask = ({ period, where }: Question) => to({ period, where })

const columns = 'number,customer,site,place,ordered,promised,shipped'
const today = {
  path: '/orders',
  query: {
    where: 'forecast != null',
    columns: 'number,customer,site,place,ordered,promised,forecast,forecast-by',
    sort: 'forecast',
  },
}

const tokens = useTokens()
const framed = (part: Part) => ({
  ...forecastPicture(part, columns, tokens.value),
  sentence: answer.value?.sentence.map((w) => w.text).join('') ?? '',
  below: part.lines.slice(0, 1).map((l) => l.text),
  tokens: tokens.value,
})
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="question"
    :asked="asked"
    label="Forecasts"
    list
    :columns="columns"
    @change="ask"
    @retry="retry"
  >
    <template #tools>
      <v-btn :to="today" data-test="today">Open orders with their forecasts</v-btn>
    </template>
    <template #picture="{ part }"><ChartFrame v-bind="framed(part)" /></template>
  </AnswerFrame>
</template>
