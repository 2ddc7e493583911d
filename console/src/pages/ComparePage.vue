<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useTheme } from 'vuetify'
import { type Part, tableOf } from '@/api/document'
import { bridgePicture, comparePicture } from '@/charts/crosstab'
import AnswerFrame from '@/components/AnswerFrame.vue'
import { figures, useCounting } from '@/composables/useCounting'
import { dark, light } from '@/theme'

// The same figure by several dates beside each other, over one axis; and the bridge from one date to another.
const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

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
const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

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
const value = (event: Event) => (event.target as HTMLSelectElement).value
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
      <label v-if="bases.length < 6"
        >Beside them
        <select
          class="field"
          value=""
          data-test="add-date"
          @change="to({ basis: [...bases, value($event)].join(',') })"
        >
          <option value="">no other date</option>
          <option v-for="m in milestones.filter((x) => !bases.includes(x))" :key="m" :value="m">
            {{ m }}
          </option>
        </select></label
      >
      <label
        >Also show
        <select class="field" value="" data-test="add-figure" @change="setShows([...shows, value($event)])">
          <option value="">nothing else</option>
          <option v-for="f in figures.filter((x) => !shows.includes(x))" :key="f" :value="f">{{ f }}</option>
        </select></label
      >
      <button v-if="shows.length > 1" type="button" class="link" @click="setShows(shows.slice(0, 1))">
        one figure alone
      </button>
      <label
        >Empty steps
        <select
          class="field"
          :value="query.empty ?? 'shown'"
          data-test="empty"
          @change="to({ empty: value($event) })"
        >
          <option value="shown">shown, with the reason</option>
          <option value="hidden">hidden</option>
          <option value="alone">alone</option>
        </select></label
      >
      <button v-if="some" type="button" class="link" :data-test="`pick-some-${some}`" @click="pickSome(some)">
        Some {{ some }} only
      </button>
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

<style scoped>
.field {
  max-width: 200px;
}
</style>
