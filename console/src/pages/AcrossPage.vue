<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useTheme } from 'vuetify'
import type { Across, AcrossFigure, AcrossHead, AcrossPart } from '@/api/client'
import { acrossPicture } from '@/charts/across'
import CellsTable from '@/components/CellsTable.vue'
import ConditionPicker from '@/components/ConditionPicker.vue'
import KeepView from '@/components/KeepView.vue'
import PlacesLines from '@/components/PlacesLines.vue'
import QuestionSentence from '@/components/QuestionSentence.vue'
import StateNotice from '@/components/StateNotice.vue'
import TakeAway from '@/components/TakeAway.vue'
import { useAcross } from '@/composables/useAcross'
import { count, counted } from '@/format'
import { dark, light } from '@/theme'

// Rows by columns: seasons, products, sites, with their sums, and what stands behind each column.
const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const across = useAcross({ basis: 'ordered', rows: 'site', columns: 'month' })
const { answer, problem, loading, retry, query, text, to, asked, own, pick, ask, behind, groupings, partOf } =
  across
const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

const figure = computed(() => answer.value?.figures[0])
const part = computed(() => figure.value && partOf(figure.value))
const shades = { all: 'within all', row: 'within its row', column: 'within its column', none: 'not' } as const
type Shade = keyof typeof shades
const shade = computed<Shade>(
  () => (Object.keys(shades) as Shade[]).find((s) => s === text('shade')) ?? 'all',
)
const blank = computed(() => text('blank') === 'true')

function ofCell(f: AcrossFigure, p: AcrossPart) {
  return (row: AcrossHead | undefined, column: AcrossHead | undefined) =>
    behind(f, {
      row: row?.others ? undefined : row?.key,
      others: row?.others ? 'true' : undefined,
      column: column?.key,
      in_currency: p.currency || undefined,
    })
}
const ofPlace = (f: AcrossFigure, p: AcrossPart) => (basis: string, place: string) =>
  behind(f, {
    by_date: basis,
    place: place || undefined,
    without_figure: place ? undefined : 'true',
    in_currency: p.currency || undefined,
  })

function framed(a: Across, f: AcrossFigure, p: AcrossPart) {
  return {
    ...acrossPicture(a, f, p, ofCell(f, p), tokens.value),
    sentence: f.sentence,
    below: p.tables.map((x) => `${x.words}: ${x.line}`),
    tokens: tokens.value,
  }
}
const pickOne = (name: string, event: Event) => to({ [name]: (event.target as HTMLSelectElement).value })
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <p v-if="problem && query.where" class="mend">
      Change the condition: <ConditionPicker :text="query.where" @pick="to({ where: $event || undefined })" />
    </p>
    <template v-else-if="answer && asked && figure && part">
      <QuestionSentence
        :answer="asked"
        :question="{ where: query.where }"
        :own="own"
        list
        @change="ask"
        @own="pick"
      />
      <p class="also">
        <label v-if="!query.rows"
          >Rows
          <select class="field" value="" data-test="add-rows" @change="pickOne('rows', $event)">
            <option value="">none</option>
            <option v-for="g in groupings.filter((x) => x !== query.columns)" :key="g" :value="g">
              {{ g }}
            </option>
          </select></label
        >
        <label v-if="!query.columns"
          >Columns
          <select class="field" value="" data-test="add-columns" @change="pickOne('columns', $event)">
            <option value="">none</option>
            <option v-for="g in groupings.filter((x) => x !== query.rows)" :key="g" :value="g">
              {{ g }}
            </option>
          </select></label
        >
        <label
          >Rows shown
          <select class="field" :value="query.top ?? ''" data-test="top" @change="pickOne('top', $event)">
            <option value="">all</option>
            <option v-for="n in ['3', '5', '10', '20']" :key="n" :value="n">
              the first {{ n }}, and all others
            </option>
          </select></label
        >
        <label
          >Shaded
          <select class="field" :value="shade" data-test="shade" @change="pickOne('shade', $event)">
            <option v-for="(words, name) in shades" :key="name" :value="name">{{ words }}</option>
          </select></label
        >
        <label
          ><input
            type="checkbox"
            :checked="blank"
            data-test="blank"
            @change="to({ blank: blank ? undefined : 'true' })"
          />
          zeros blank</label
        >
        <label v-if="figure.parts.length > 1"
          >In
          <select
            class="field"
            :value="part.currency || 'none'"
            data-test="currency"
            @change="pickOne('currency', $event)"
          >
            <option v-for="p in figure.parts" :key="p.currency" :value="p.currency || 'none'">
              {{ p.currency || 'no currency' }}
            </option>
          </select></label
        >
        <KeepView :sentence="answer.sentence" />
        <TakeAway path="/across-file" :query="query" :rows="part.all_rows + 1" />
      </p>
      <ChartFrame v-bind="framed(answer, figure, part)" />
      <CellsTable
        :answer="answer"
        :figure="figure"
        :part="part"
        :behind="ofCell(figure, part)"
        :shade="shade"
        :blank="blank"
        @sort="to({ sort: $event })"
      />
      <p v-if="(part.tables[0]?.rows.length ?? 0) < part.all_rows" class="muted whole" data-test="first-rows">
        The first {{ count(part.tables[0]?.rows.length ?? 0) }} of {{ counted(part.all_rows, 'row') }}; what
        is taken away has all.
      </p>
      <PlacesLines :figure="figure" :part="part" :behind="ofPlace(figure, part)" />
      <p class="whole" data-test="reconciliation">{{ answer.reconciliation_line }}</p>
    </template>
    <p v-else-if="!problem" class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.field {
  max-width: 210px;
}

.whole {
  margin: 8px 4px;
}
</style>
