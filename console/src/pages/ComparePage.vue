<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useTheme } from 'vuetify'
import type { Across, AcrossBridge, AcrossFigure, AcrossHead, AcrossPart } from '@/api/client'
import { bridgePicture, comparePicture } from '@/charts/across'
import ConditionPicker from '@/components/ConditionPicker.vue'
import DatesTable from '@/components/DatesTable.vue'
import KeepView from '@/components/KeepView.vue'
import PlacesLines from '@/components/PlacesLines.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import StateNotice from '@/components/StateNotice.vue'
import TakeAway from '@/components/TakeAway.vue'
import { figures, useAcross } from '@/composables/useAcross'
import { count } from '@/format'
import { dark, light } from '@/theme'

// The same figure by several dates beside each other, over one axis; and the bridge from one date to another.
const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const across = useAcross({ basis: 'ordered,shipped', each: 'month', empty: 'shown' })
const {
  answer,
  problem,
  loading,
  retry,
  query,
  text,
  to,
  asked,
  own,
  pick,
  ask,
  behind,
  shows,
  setShows,
  bases,
  milestones,
  partOf,
} = across
const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

const currencies = computed(() => answer.value?.figures.find((f) => f.parts.length > 1)?.parts ?? [])
const shown = computed(
  () =>
    answer.value?.figures.flatMap((figure) => ({ figure, part: partOf(figure) })).filter((x) => x.part) as
      { figure: AcrossFigure; part: AcrossPart }[] | undefined,
)

const inCurrency = (part: AcrossPart) => part.currency || undefined
const ofRow = (f: AcrossFigure, part: AcrossPart) => (row: AcrossHead | undefined, basis: string) =>
  behind(f, { by_date: basis, row: row?.key, in_currency: inCurrency(part) })
const ofPlace = (f: AcrossFigure, part: AcrossPart) => (basis: string, place: string) =>
  behind(f, {
    by_date: basis,
    place: place || undefined,
    without_figure: place ? undefined : 'true',
    in_currency: inCurrency(part),
  })

function framed(a: Across, f: AcrossFigure, part: AcrossPart) {
  return {
    ...comparePicture(a, f, part, ofRow(f, part), tokens.value),
    sentence: f.sentence,
    below: part.tables.map((x) => `${x.words}: ${x.line}`),
    tokens: tokens.value,
  }
}

function bridged(f: AcrossFigure, part: AcrossPart, b: AcrossBridge) {
  const open = (place: string, other: string) =>
    place && other
      ? behind(f, { by_date: b.to, place, other_place: other, in_currency: inCurrency(part) })
      : ofPlace(f, part)(place ? b.from : b.to, 'inside')
  const both = b.steps.find((s) => s.sign === 0)
  return {
    ...bridgePicture(b, open, tokens.value),
    sentence: `From what was ${b.from} to what was ${b.to}: ${f.sentence}`,
    below: both ? [`${both.amount.text} in both: ${both.label}`] : [],
    note: both ? `${both.amount.text} in both: ${both.label}.` : undefined,
    tokens: tokens.value,
  }
}

const rowsOf = computed(
  () => shown.value?.reduce((n, x) => n + (x.part.tables[0]?.rows.length ?? 0) + 1, 0) ?? 0,
)
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <p v-if="problem && query.where" class="mend">
      Change the condition: <ConditionPicker :text="query.where" @pick="to({ where: $event || undefined })" />
    </p>
    <template v-else-if="answer && asked">
      <QuestionSentence
        :answer="asked"
        :question="{ where: query.where }"
        :own="own"
        list
        @change="ask"
        @own="pick"
      />
      <p class="also">
        <label v-if="bases.length < 6"
          >Beside them
          <select
            class="field"
            value=""
            data-test="add-date"
            @change="to({ basis: [...bases, ($event.target as HTMLSelectElement).value].join(',') })"
          >
            <option value="">no other date</option>
            <option v-for="m in milestones.filter((x) => !bases.includes(x))" :key="m" :value="m">
              {{ m }}
            </option>
          </select></label
        >
        <label
          >Also show
          <select
            class="field"
            value=""
            data-test="add-figure"
            @change="
              setShows([...(shows.length ? shows : ['orders']), ($event.target as HTMLSelectElement).value])
            "
          >
            <option value="">nothing else</option>
            <option
              v-for="f in figures.filter((x) => !(shows.length ? shows : ['orders']).includes(x))"
              :key="f"
              :value="f"
            >
              {{ f }}
            </option>
          </select></label
        >
        <button v-if="shows.length > 1" type="button" class="link" @click="setShows(shows.slice(0, 1))">
          one figure alone
        </button>
        <label
          >Empty steps
          <select
            class="field"
            :value="answer.empty"
            data-test="empty"
            @change="to({ empty: ($event.target as HTMLSelectElement).value })"
          >
            <option value="shown">shown, with the reason</option>
            <option value="hidden">hidden</option>
            <option value="alone">alone</option>
          </select></label
        >
        <label v-if="currencies.length > 1"
          >In
          <select
            class="field"
            :value="text('currency') ?? (currencies[0]?.currency || 'none')"
            data-test="currency"
            @change="to({ currency: ($event.target as HTMLSelectElement).value })"
          >
            <option v-for="p in currencies" :key="p.currency" :value="p.currency || 'none'">
              {{ p.currency || 'no currency' }}
            </option>
          </select></label
        >
        <KeepView :sentence="answer.sentence" />
        <TakeAway path="/across-file" :query="query" :rows="rowsOf" />
      </p>
      <section v-for="x in shown" :key="x.figure.show">
        <h2 v-if="answer.figures.length > 1">{{ x.figure.words }}</h2>
        <ChartFrame v-if="answer.empty !== 'alone'" v-bind="framed(answer, x.figure, x.part)" />
        <p v-if="x.part.tables[0]?.rows.length === 0" class="panel none" data-test="none">
          {{ answer.empty === 'alone' ? 'No step is empty.' : 'Every step is empty.' }}
        </p>
        <DatesTable
          v-else
          :answer="answer"
          :figure="x.figure"
          :part="x.part"
          :behind="ofRow(x.figure, x.part)"
        />
        <p v-if="answer.empty_steps.length > 0" class="muted why" data-test="empty-steps">
          Steps with nothing:
          <template v-for="(r, i) in answer.empty_steps" :key="r.why"
            >{{ i > 0 ? '; ' : '' }}{{ r.why }} ({{ count(r.steps) }})</template
          >.
        </p>
        <PlacesLines :figure="x.figure" :part="x.part" :behind="ofPlace(x.figure, x.part)" />
        <template v-for="b in x.part.bridges" :key="b.to">
          <h2>From what was {{ b.from }} in the period to what was {{ b.to }} in it</h2>
          <ChartFrame v-bind="bridged(x.figure, x.part, b)" :data-test="`bridge-${b.to}`" />
        </template>
      </section>
      <p class="whole" data-test="reconciliation">{{ answer.reconciliation_line }}</p>
    </template>
    <p v-else-if="!problem" class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.field {
  max-width: 200px;
}

.none {
  padding: 18px;
}

.why {
  margin: 12px 4px 0;
}

.whole {
  margin: 8px 4px;
}
</style>
