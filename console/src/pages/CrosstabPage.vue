<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import { useTheme } from 'vuetify'
import type { Column, Part, Row, Table } from '@/api/document'
import { crosstabPicture } from '@/charts/crosstab'
import AnswerFrame from '@/components/AnswerFrame.vue'
import { useCounting } from '@/composables/useCounting'
import { dark, light } from '@/theme'

// Rows by columns: seasons, products, sites, with their sums, and what stands behind each column.
const ChartFrame = defineAsyncComponent(() => import('@/components/ChartFrame.vue'))

const {
  document,
  problem,
  loading,
  retry,
  asked,
  query,
  text,
  to,
  own,
  pick,
  some,
  pickSome,
  ask,
  groupings,
} = useCounting('/crosstab', ['rows', 'columns', 'top', 'sort', 'blank'], {
  basis: 'ordered',
  rows: 'site',
  columns: 'month',
})
const theme = useTheme()
const tokens = computed(() => (theme.global.current.value.dark ? dark : light))

const shades = { all: 'within all', row: 'within its row', column: 'within its column', none: 'not' } as const
type Shade = keyof typeof shades
const shade = computed<Shade>(
  () => (Object.keys(shades) as Shade[]).find((s) => s === text('shade')) ?? 'all',
)

const isCell = (c: Column | undefined) => c?.code.startsWith('key:') === true && !c.folded
const valuesOf = (table: Table, rows: readonly Row[]) =>
  rows.flatMap((r) => r.cells.flatMap((c, i) => (isCell(table.columns[i]) ? (c.number ?? []) : [])))

/** Little is paper and much is amber, within what is compared; the number stands in the cell. */
function ground(table: Table, row: Row, column: Column, at: number): string | undefined {
  const value = row.cells[at]?.number
  if (value === undefined || shade.value === 'none' || !isCell(column)) return undefined
  const compared = {
    all: () => valuesOf(table, table.rows),
    row: () => valuesOf(table, [row]),
    column: () => table.rows.flatMap((r) => r.cells[at]?.number ?? []),
  }[shade.value]()
  const low = Math.min(...compared)
  const high = Math.max(...compared)
  if (high <= low) return undefined
  const much = Math.round(((value - low) / (high - low)) * 42)
  return `color-mix(in srgb, rgb(var(--v-theme-secondary)) ${much}%, rgb(var(--v-theme-surface)))`
}

/** The column by which the service sorts the rows. */
const sortBy = (code: string) => to({ sort: code.replace(/^key:/, '') })

function framed(part: Part) {
  return {
    ...crosstabPicture(part, tokens.value),
    sentence: document.value?.sentence.map((w) => w.text).join('') ?? '',
    below: part.lines.slice(0, -1).map((l) => l.text),
    tokens: tokens.value,
  }
}
const pickOne = (name: string, event: Event) => to({ [name]: (event.target as HTMLSelectElement).value })
</script>

<template>
  <AnswerFrame
    :document="document"
    :problem="problem"
    :loading="loading"
    :question="{ where: query.where }"
    :own="own"
    :asked="asked"
    label="Rows by columns"
    :sorts="['cells']"
    :ground="ground"
    list
    @change="ask"
    @own="pick"
    @retry="retry"
    @sort="sortBy"
  >
    <template #tools>
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
          :checked="query.blank === 'true'"
          data-test="blank"
          @change="to({ blank: query.blank === 'true' ? undefined : 'true' })"
        />
        zeros blank</label
      >
      <button v-if="some" type="button" class="link" :data-test="`pick-some-${some}`" @click="pickSome(some)">
        Some {{ some }} only
      </button>
    </template>
    <template #picture="{ part }"><ChartFrame v-bind="framed(part)" /></template>
  </AnswerFrame>
</template>

<style scoped>
.field {
  max-width: 210px;
}
</style>
