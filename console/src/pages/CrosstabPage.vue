<script setup lang="ts">
import { computed } from 'vue'
import type { Column, Part, Row, Table } from '@/api/document'
import { crosstabPicture } from '@/charts/crosstab'
import ChoiceField from '@/components/ChoiceField.vue'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import { groupingNames } from '@/question'
import { useCounting } from '@/composables/useCounting'
import { useTokens } from '@/composables/useTokens'
import { type Shade, shareOfShade } from '@/shading'

// Rows by columns: seasons, products, sites, with their sums, and what stands behind each column.
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
  known,
} = useCounting('/crosstab', ['rows', 'columns', 'top', 'sort', 'blank'], {
  basis: 'ordered',
  rows: 'site',
  columns: 'month',
})
const tokens = useTokens()

const shades = { all: 'within all', row: 'within its row', column: 'within its column', none: 'not' } as const
const shade = computed<Shade>(
  () => (Object.keys(shades) as Shade[]).find((s) => s === text('shade')) ?? 'all',
)

/** Little is paper and much is amber, within what is compared; the number stands in the cell. */
function ground(table: Table, row: Row, column: Column, at: number): string | undefined {
  const share = shareOfShade(shade.value, table, row, column, at)
  if (share === undefined) return undefined
  return `color-mix(in srgb, rgb(var(--v-theme-secondary)) ${Math.round(share * 42)}%, rgb(var(--v-theme-surface)))`
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
const tops = {
  '': 'all',
  ...Object.fromEntries(['3', '5', '10', '20'].map((n) => [n, `the first ${n}, and all others`])),
}
/** The ends of the table without a grouping. */
const missing = computed(() => ({
  ...(query.value.rows ? {} : { rows: 'Rows' }),
  ...(query.value.columns ? {} : { columns: 'Columns' }),
}))
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
      <ChoiceField
        v-for="(words, end) in missing"
        :key="end"
        model-value=""
        :label="words ?? ''"
        :choices="{
          '': 'none',
          ...groupingNames(
            groupings.filter((g) => g !== query.rows && g !== query.columns),
            known,
          ),
        }"
        :data-test="`add-${end}`"
        @update:model-value="to({ [end]: $event })"
      />
      <ChoiceField
        label="Rows shown"
        :model-value="query.top ?? ''"
        :choices="tops"
        data-test="top"
        @update:model-value="to({ top: $event })"
      />
      <ChoiceField
        label="Shaded"
        :model-value="shade"
        :choices="shades"
        data-test="shade"
        @update:model-value="to({ shade: $event })"
      />
      <v-checkbox
        label="zeros blank"
        :model-value="query.blank === 'true'"
        data-test="blank"
        @update:model-value="to({ blank: $event ? 'true' : undefined })"
      />
      <v-btn v-if="some" :data-test="`pick-some-${some}`" @click="pickSome(some)">Some {{ some }} only</v-btn>
    </template>
    <template #picture="{ part }"><ChartFrame v-bind="framed(part)" /></template>
  </AnswerFrame>
</template>
