<script setup lang="ts">
import { computed } from 'vue'
import { type Part, tableOf } from '@/api/document'
import { bridgePicture, comparePicture } from '@/charts/crosstab'
import ChoiceField from '@/components/ChoiceField.vue'
import { named } from '@/format'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import { figures, useCounting } from '@/composables/useCounting'
import { useTokens } from '@/composables/useTokens'

// The same figure by several dates beside each other, over one axis; and the bridge from one date to another.
const {
  document,
  problem,
  loading,
  retry,
  asked,
  query,
  to,
  own,
  pick,
  some,
  pickSome,
  ask,
  shows: shown,
  setShows,
  bases,
  milestones,
} = useCounting('/compare', ['each', 'empty'], { basis: 'ordered,shipped', each: 'month' })
const shows = computed(() => (shown.value.length > 0 ? shown.value : ['orders']))
const tokens = useTokens()

const sentence = computed(() => document.value?.sentence.map((w) => w.text).join('') ?? '')
function framed(part: Part) {
  return {
    ...comparePicture(part, tokens.value),
    sentence: part.title ? `${sentence.value} (${part.title})` : sentence.value,
    below: part.lines.map((l) => l.text),
    tokens: tokens.value,
  }
}
function bridged(part: Part, code: string) {
  const table = tableOf(part, code)
  const both = part.notes.find((n) => n.code === code.replace('bridge', 'both'))
  return {
    ...bridgePicture(table, tokens.value),
    sentence: `${table.title ?? ''}: ${sentence.value}`,
    below: both ? [both.text] : [],
    note: both?.text,
    tokens: tokens.value,
  }
}
</script>

<template>
  <AnswerFrame
    :document="document"
    :problem="problem"
    :loading="loading"
    :question="{ where: query.where }"
    :own="own"
    :asked="asked"
    label="Dates beside each other"
    list
    @change="ask"
    @own="pick"
    @retry="retry"
  >
    <template #tools>
      <ChoiceField
        v-if="bases.length < 6"
        label="Beside them"
        model-value=""
        :choices="{ '': 'no other date', ...named(milestones.filter((m) => !bases.includes(m))) }"
        data-test="add-date"
        @update:model-value="to({ basis: [...bases, $event].join(',') })"
      />
      <ChoiceField
        label="Also show"
        model-value=""
        :choices="{ '': 'nothing else', ...named(figures.filter((f) => !shows.includes(f))) }"
        data-test="add-figure"
        @update:model-value="setShows([...shows, $event])"
      />
      <v-btn v-if="shows.length > 1" @click="setShows(shows.slice(0, 1))">one figure alone</v-btn>
      <ChoiceField
        label="Empty steps"
        :model-value="query.empty ?? 'shown'"
        :choices="{ shown: 'shown, with the reason', hidden: 'hidden', alone: 'alone' }"
        data-test="empty"
        @update:model-value="to({ empty: $event })"
      />
      <v-btn v-if="some" :data-test="`pick-some-${some}`" @click="pickSome(some)">Some {{ some }} only</v-btn>
    </template>
    <template #picture="{ part }">
      <ChartFrame v-if="query.empty !== 'alone'" v-bind="framed(part)" />
    </template>
    <template #above="{ part, table }">
      <ChartFrame
        v-if="table.code.startsWith('bridge-')"
        v-bind="bridged(part, table.code)"
        :data-test="table.code"
      />
    </template>
  </AnswerFrame>
</template>
