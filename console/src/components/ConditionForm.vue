<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, inject, reactive, ref, watch } from 'vue'
import { useAnswer } from '@/composables/useAnswer'
import type { Condition, Picked, Values } from '@/api/client'
import { comparisonsOf, conditionOf, joined, type Kind } from '@/condition'
import { withWeekday } from '@/format'
import { BOOK } from '@/keys'
import { dateName } from '@/question'
import ChoiceField from './ChoiceField.vue'
import DayField from './DayField.vue'

// The condition that picks the orders: picked part by part, or written. What is picked becomes text; what is written
// comes apart into picks again, as long as it is one level of and, or of or.
const { text } = defineProps<{ text: string }>()
const emit = defineEmits<{ pick: [text: string] }>()

const book = inject(BOOK)
const written = ref(text)

interface Subject {
  name: string
  words: string
  kind: Kind
}

const isNumber = /units|line-value|amount/
const isDay = /line-shipped|line-delivered|shipments\.(shipped|delivered)|payments\.paid/

/** A column of lines, shipments or payments as a subject. */
function ofPart(name: string): Subject {
  const kind = isNumber.test(name) ? 'number' : isDay.test(name) ? 'day' : 'text'
  const [part, column] = name.split('.')
  return { name, kind, words: `${column} of some ${part?.replace(/s$/, '')}` }
}

/** What can be asked about: fields, milestones, the value, how long each usual leg has taken, and the order's parts. */
const subjects = computed<Subject[]>(() => [
  { name: 'number', words: 'number', kind: 'text' },
  ...(book?.value?.fields ?? []).map((f) => ({
    name: f.name,
    words: f.name.replaceAll('-', ' '),
    kind: 'text' as const,
  })),
  ...(book?.value?.milestones ?? []).map((m) => ({
    name: m.name,
    words: m.date,
    kind: 'day' as const,
  })),
  { name: 'value', words: 'value', kind: 'number' },
  ...(book?.value?.columns ?? []).flatMap((c): Subject[] => {
    if (c.of === 'lengths' && c.text.includes('('))
      return [{ name: c.text, words: lengthWords(c.text), kind: 'number' }]
    return c.text.includes('.') ? [ofPart(c.text)] : []
  }),
])

const dateOf = (name = '') => dateName(name, book?.value?.milestones ?? [])

/** working_days_so_far(ordered, shipped) in words. */
function lengthWords(text: string): string {
  const [name = '', ends = ''] = text.replace(')', '').split('(')
  const [from, to] = ends.split(', ')
  const unit = name.replace('_so_far', '').replaceAll('_', ' ')
  return `${unit} from ${dateOf(from)} to ${dateOf(to)}${name.endsWith('_so_far') ? ', so far' : ''}`
}

const subjectOf = (name: string) => subjects.value.find((s) => s.name === name)

/** What is written, as far as it is understood; asked once typing pauses. */
const settled = ref(text.trim())
watch(written, (now, _before, onCleanup) => {
  const timer = setTimeout(() => (settled.value = now.trim()), 150)
  onCleanup(() => clearTimeout(timer))
})
const { answer: understood, problem } = useAnswer<Condition>(() =>
  settled.value ? { path: '/condition', query: { text: settled.value } } : undefined,
)
/** Those of a moment ago stay while what has just been written is looked at. */
const picks = computed(() => (written.value.trim() && !problem.value ? (understood.value?.picks ?? []) : []))

/** Writes the picks anew, with one of them changed, or left out. */
function rewrite(i: number, change: Partial<Picked> | undefined) {
  const next = picks.value.flatMap((p, j) => (i !== j ? [p] : change ? [{ ...p, ...change }] : []))
  const parts = next.map((p) => {
    const subject = subjectOf(p.subject) ?? { name: p.subject, kind: p.kind as Kind }
    const comparison = comparisonsOf(subject.kind).find((c) => c.name === p.comparison)
    return comparison && conditionOf(subject, comparison, p.value)
  })
  if (parts.every((part) => part !== undefined))
    written.value = parts.join(` ${understood.value?.joined ?? '&&'} `)
}

const picked = reactive({ name: '', comparison: '', value: '' })
const subject = computed(() => subjectOf(picked.name))
const comparisons = computed(() => comparisonsOf(subject.value?.kind ?? 'text'))
const comparison = computed(() => comparisons.value.find((c) => c.words === picked.comparison))
watch(
  () => picked.name,
  () => {
    picked.comparison = comparisons.value[0]?.words ?? ''
    picked.value = ''
  },
)

/** Values to pick from, as far as they are typed. */
const { answer: values } = useAnswer<Values>(() =>
  subject.value?.kind === 'text' && picked.name !== 'number'
    ? { path: `/fields/${encodeURIComponent(picked.name)}/values`, query: { like: picked.value, limit: 20 } }
    : undefined,
)

const part = computed(() =>
  subject.value && comparison.value
    ? conditionOf(subject.value, comparison.value, picked.value.trim())
    : undefined,
)
const isWholeDay = (text: string) => /^\d{4}-\d\d-\d\d$/.test(text)

function add(by: '&&' | '||') {
  if (part.value) written.value = joined(written.value.trim(), by, part.value)
}

const ask = () => emit('pick', written.value.trim())
</script>

<template>
  <v-form class="condition" data-test="condition" @submit.prevent="ask">
    <ul v-if="picks.length > 0" data-test="picks">
      <li v-for="(p, i) in picks" :key="i">
        <span class="muted joins">{{ i > 0 ? (understood?.joined === '||' ? 'or' : 'and') : '' }}</span>
        <span class="subject">{{ subjectOf(p.subject)?.words ?? p.subject }}</span>
        <ChoiceField
          :model-value="p.comparison"
          label="comparison"
          :choices="Object.fromEntries(comparisonsOf(p.kind as Kind).map((c) => [c.name, c.words]))"
          :aria-label="`How ${p.subject} is compared`"
          @update:model-value="rewrite(i, { comparison: $event })"
        />
        <v-text-field
          v-if="!p.comparison.endsWith('missing')"
          :model-value="p.value"
          :hint="p.kind === 'day' && isWholeDay(p.value) ? withWeekday(p.value) : undefined"
          persistent-hint
          :aria-label="`What ${p.subject} is compared with`"
          :data-test="`pick-value-${i}`"
          @change="rewrite(i, { value: $event.target.value })"
        />
        <v-btn
          :icon="mdiClose"
          size="small"
          :aria-label="`Without ${p.subject}`"
          @click="rewrite(i, undefined)"
        />
      </li>
    </ul>
    <div class="picks">
      <v-autocomplete
        v-model="picked.name"
        label="what"
        :items="subjects"
        item-title="words"
        item-value="name"
        hide-no-data
        data-test="subject"
      />
      <ChoiceField
        v-model="picked.comparison"
        label="comparison"
        :choices="comparisons.map((c) => c.words)"
        data-test="comparison-word"
      />
      <DayField
        v-if="comparison?.takesValue && subject?.kind === 'day'"
        v-model="picked.value"
        label="day"
        data-test="condition-value"
      />
      <v-combobox
        v-else-if="comparison?.takesValue"
        v-model:search="picked.value"
        :model-value="picked.value"
        label="value"
        :items="values?.values ?? []"
        no-filter
        hide-no-data
        :menu-icon="subject?.kind === 'text' ? undefined : ''"
        data-test="condition-value"
        @keydown.enter.prevent="add('&&')"
      />
      <v-btn :disabled="!part" data-test="add-and" @click="add('&&')">{{ written ? 'and' : 'add' }}</v-btn>
      <v-btn v-if="written" :disabled="!part" data-test="add-or" @click="add('||')">or</v-btn>
    </div>
    <v-textarea
      v-model="written"
      class="code"
      label="Condition, in CEL"
      rows="3"
      maxlength="10000"
      spellcheck="false"
      placeholder='site == "Galway" &amp;&amp; paid == null'
      :error-messages="problem && settled ? problem.message : undefined"
      :aria-invalid="!!problem && settled !== ''"
      data-test="condition-text"
      @keydown.ctrl.enter.prevent="ask"
    />
    <p class="buttons">
      <v-btn type="submit" variant="flat" data-test="ask-where">Ask</v-btn>
      <v-btn v-if="text" data-test="clear-where" @click="((written = ''), ask())">All orders</v-btn>
    </p>
  </v-form>
</template>

<style scoped>
.condition {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  max-height: 80vh;
  overflow-y: auto;
  padding: 16px;
  font-size: 0.9rem;
}

ul {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 8px;
}

li,
.picks,
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}

.joins {
  width: 28px;
}

.subject {
  flex: 1 1 8rem;
}

li .v-input,
.picks .v-input {
  flex: 1 1 9rem;
}

.code :deep(textarea) {
  font-family: ui-monospace, monospace;
}
</style>
