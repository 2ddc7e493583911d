<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { asOf } from '@/api/client'
import { cellOf, type Document, numberOf, type Part, recordsOf, tableOf } from '@/api/document'
import { barsPicture, placesOf, scaleOf } from '@/charts/places'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import ChoiceField from '@/components/ChoiceField.vue'
import PlaceForm from '@/components/PlaceForm.vue'
import MapFrame from '@/components/MapFrame.vue'
import TabRow from '@/components/TabRow.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { useTokens } from '@/composables/useTokens'
import { count } from '@/format'
import { type OwnWord, parameters, type Question, questionOf } from '@/question'

// How long orders take by where they go: the map, bars or routes, with one table, scale and filter for all of them.
const route = useRoute()
const { text, some, to } = useAddress()
const question = computed(() => questionOf(route.query))
const asked = computed(() => ({
  path: '/places',
  query: {
    ...some([
      'from',
      'to',
      'in',
      'count',
      'calendar',
      'cut_off',
      'basis',
      'period',
      'where',
      'by',
      'promise',
    ]),
    ...some(['show', 'target', 'few', 'rank', 'over']),
  },
}))
const { answer, problem, loading, retry } = useAnswer<Document>(asked)

const tokens = useTokens()
const sentence = computed(() => answer.value?.sentence.map((w) => w.text).join('') ?? '')

const groupings = {
  place: 'place',
  'site-place': 'route, from site to place',
  region: 'region',
  country: 'country',
}
const by = computed(() => (text('by') ?? 'place') as keyof typeof groupings)
const show = computed(() => text('show') ?? 'median')
const shares = computed(() => ['over', 'late'].includes(show.value))
const figures = {
  median: 'median',
  mean: 'mean',
  p75: 'p75',
  p90: 'p90',
  p95: 'p95',
  over: 'share over a limit',
  late: 'share late',
}
const unit = computed(() =>
  shares.value
    ? '%'
    : (answer.value?.parts[0]?.tables[0]?.columns.find((c) => c.code === 'figure')?.unit ?? ''),
)

const own = computed<Record<string, OwnWord>>(() => ({
  by: { choices: Object.keys(groupings), names: groupings, chosen: by.value },
  rank: {
    choices: ['figure', 'lower-end'],
    names: {
      figure: `by the ${figures[show.value as keyof typeof figures] ?? show.value}`,
      'lower-end': 'by the lower end of the 95% interval: how long it takes at least',
    },
    chosen: text('rank') ?? 'figure',
  },
}))

/** What can be drawn of the answer. */
type Shown = 'circles' | 'routes' | 'countries' | 'bars'
const pictures = computed<Partial<Record<Shown, string>>>(() => {
  if (by.value === 'region') return { bars: 'Bars' }
  if (by.value === 'country') return { countries: 'Map', bars: 'Bars' }
  return by.value === 'site-place' ? { routes: 'Map', bars: 'Bars' } : { circles: 'Map', bars: 'Bars' }
})
const shown = computed<Shown>(() =>
  text('picture') === 'bars' ? 'bars' : ((Object.keys(pictures.value)[0] as Shown | undefined) ?? 'bars'),
)

const target = computed(() => (text('target') === undefined ? undefined : Number(text('target'))))
function drawn(part: Part) {
  const table = tableOf(part, 'places')
  const places = placesOf(part)
  const scale = scaleOf(places, numberOf(table, table.totals[0], 'figure'), target.value)
  return { places, scale }
}
function bars(part: Part) {
  const { places, scale } = drawn(part)
  const view = { zoom: 1, centre: [0, 0] as const }
  return barsPicture(
    places,
    { circles: [], size: { width: 0, height: 0 }, scale, view, unit: unit.value, outlines: '' },
    tokens.value,
  )
}
/** How many rows are only in a file. */
const left = (part: Part) => tableOf(part, 'places').all - tableOf(part, 'places').rows.length
const below = (part: Part) => part.lines.map((l) => l.text)
const nothing = (part: Part) =>
  !cellOf(tableOf(part, 'places'), tableOf(part, 'places').totals[0], 'n').number

function ask(changed: Question) {
  const before = Object.fromEntries(Object.keys(question.value).map((name) => [name, undefined]))
  to({ ...before, ...parameters(changed), by: text('by') })
}
const isNumber = (value: string) => /^-?\d+(\.\d+)?$/.test(value.trim())
const typed = (word: string, value: string) => to({ [word]: isNumber(value) ? value.trim() : undefined })
function showFigure(name: string) {
  to({
    show: name === 'median' ? undefined : name,
    over: name === 'over' ? (text('over') ?? '10') : undefined,
  })
}
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="question"
    :own="own"
    list
    :asked="asked"
    label="Places"
    @change="ask"
    @own="(slot, word) => to({ [slot]: word })"
    @retry="retry"
  >
    <template #tools>
      <ChoiceField
        :model-value="show"
        class="figure"
        label="Figure"
        :choices="figures"
        data-test="figure"
        @update:model-value="showFigure"
      />
      <v-text-field
        v-if="show === 'over'"
        class="short"
        inputmode="decimal"
        :model-value="text('over') ?? '10'"
        label="Limit"
        data-test="places-limit"
        @change="typed('over', $event.target.value)"
      />
      <v-text-field
        class="short"
        inputmode="decimal"
        :model-value="text('target') ?? ''"
        label="Target"
        data-test="target"
        @change="typed('target', $event.target.value)"
      />
      <v-text-field
        class="short"
        inputmode="numeric"
        :model-value="text('few') ?? '10'"
        label="Ranked from n"
        data-test="few"
        @change="typed('few', $event.target.value)"
      />
    </template>
    <template #picture="{ part }">
      <TabRow
        v-if="Object.keys(pictures).length > 1"
        :tabs="pictures"
        :shown="shown"
        label="Picture"
        kind="picture"
        @show="to({ picture: $event === 'bars' ? 'bars' : undefined })"
      />
      <p v-if="left(part) > 0" class="amber" data-test="left-out">
        The first {{ count(tableOf(part, 'places').rows.length) }} rows are drawn and listed,
        {{ count(left(part)) }} more are in a file.
      </p>
      <p v-if="nothing(part)" class="panel empty">
        No order is counted here; the line below says what became of each.
      </p>
      <ChartFrame
        v-else-if="shown === 'bars'"
        v-bind="bars(part)"
        :rows="recordsOf(tableOf(part, 'places'))"
        :sentence="sentence"
        :below="below(part)"
        :tokens="tokens"
      />
      <MapFrame
        v-else
        :key="shown"
        :part="part"
        :kind="shown"
        v-bind="drawn(part)"
        :unit="unit"
        :sentence="sentence"
        :below="below(part)"
        :tokens="tokens"
      />
    </template>
    <template #above="{ table }">
      <PlaceForm v-if="table.code === 'off-map' && !asOf" :table="table" @saved="retry" />
    </template>
  </AnswerFrame>
</template>

<style scoped>
.figure {
  min-width: 180px;
}

.empty {
  padding: 28px;
  margin-bottom: 20px;
}
</style>
