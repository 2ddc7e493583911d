<script setup lang="ts">
import { mdiPlusCircleOutline } from '@mdi/js'
import { computed, inject } from 'vue'
import type { Asked } from '@/api/client'
import { BOOK } from '@/keys'
import { dateName, groupingNames, isSlot, type OwnWord, type Question, type Slot } from '@/question'
import ConditionPicker from './ConditionPicker.vue'
import WordPicker from './WordPicker.vue'

// The question in words, every changeable word a picker: the title of a page.
const { answer, question, list, own, fault } = defineProps<{
  answer: Asked
  question: Question
  /** The question of a list, whose orders are not put into groups. */
  list?: boolean
  /** Words of the sentence that are the page's own, by their slot. */
  own?: Readonly<Record<string, OwnWord>>
  /** The word of the question that was refused: the sentence shows it as it was asked. */
  fault?: string
}>()
const emit = defineEmits<{ change: [question: Question]; own: [slot: string, word: string] }>()

const book = inject(BOOK)

/** The words that stand alone in the sentence; a calendar is picked with its unit, a limit below. */
type Word = Exclude<Slot, 'by' | 'through' | 'calendar' | 'where' | 'over' | 'at_least'>

const units = computed(() => book?.value?.units ?? [])

/** Marks a unit that is counted by the calendar of the destination. */
const atDestination = '@destination'

const unitNames = computed(() => {
  const names = Object.fromEntries(units.value.map((u) => [u.name, u.words]))
  return { ...names, [`working-days${atDestination}`]: `${names['working-days']} at the destination` }
})

const known = computed(() => book?.value?.milestones.filter((m) => m.first) ?? [])

/** Milestones, then facts with an earlier one in their place where they are missing. */
const milestones = computed(() => {
  const facts = known.value.filter((m) => !m.plan && m.name !== 'cancelled').map((m) => m.name)
  const pairs = facts.flatMap((of, i) => facts.slice(1, i).map((standIn) => `${of}-or-${standIn}`))
  return [...known.value.map((m) => m.name), ...pairs]
})

const choices = computed<Record<Word, readonly string[]>>(() => {
  return {
    from: milestones.value.filter((m) => m !== answer.to),
    to: milestones.value.filter((m) => m !== answer.from),
    basis: milestones.value,
    promise: [noPromise, ...plans.value, ...workingDays],
    in: Object.keys(unitNames.value).sort(
      (a, b) => place(a) - place(b) || a.length - b.length, // the destination's after the site's
    ),
    count: units.value.find((u) => u.name === answer.unit)?.rules ?? [],
    cut_off: Object.keys(cutOffs),
    period: ['all orders', ...(book?.value?.periods ?? [])],
  }
})

const plans = computed(() => known.value.filter((m) => m.plan).map((m) => m.name))
const noPromise = 'no promise'
/** Words that an address leaves out. */
const defaults = ['all orders', noPromise, 'on']
/** Numbers of working days to pick from; others can be typed. */
const workingDays = ['1', '2', '3', '5', '10', '20']

/** Why the unit does not take every rule. */
const refused = computed(() => units.value.find((u) => u.name === answer.unit)?.refused)

/** How the choices of a part read; the only rule of a unit reads as in the sentence. */
function names(part: Part): Record<string, string> | undefined {
  if (part.slot === 'in') return unitNames.value
  if (part.slot === 'promise') return promiseNames.value
  if (part.slot && ['from', 'to', 'through', 'basis'].includes(part.slot)) {
    return Object.fromEntries(milestones.value.map((m) => [m, dateName(m, known.value)]))
  }
  if (part.slot === 'cut_off') return cutOffs
  return part.slot === 'count' && refused.value ? { elapsed: part.text } : undefined
}

const promiseNames = computed(() => ({
  [noPromise]: 'no promise',
  ...Object.fromEntries(plans.value.map((m) => [m, `by the ${dateName(m, known.value)}`])),
  ...Object.fromEntries(
    workingDays.map((n) => [
      n,
      `within ${n} working day${n === '1' ? '' : 's'} after the ${dateName(answer.from, known.value)}`,
    ]),
  ),
}))

function place(unit: string): number {
  return units.value.findIndex((u) => u.name === unit.split('@')[0])
}

/** Whether an order after the cut-off of its site counts as one of the next working day. */
const cutOffs = { on: 'after cut-offs', off: 'without cut-offs' }

/** What can be typed besides the choices. */
const examples: Partial<Record<Slot, string>> = {
  period: '2026-07-06/2026-08-02',
  promise: '7, in working days',
}

function isWord(slot?: Slot): slot is Word {
  return slot !== undefined && slot in choices.value
}

const chosen = computed<Record<Word, string>>(() => ({
  from: answer.from,
  to: answer.to,
  in: answer.unit + (answer.calendar === 'destination' ? atDestination : ''),
  count: answer.count_rule,
  cut_off: question.cut_off ?? 'on',
  basis: answer.basis,
  promise: answer.promise ?? noPromise,
  period: question.period ?? 'all orders',
}))

/** A stretch of the sentence; a grouping, or a milestone between the ends, carries its place. */
interface Part {
  text: string
  slot?: Slot
  place?: number
  own?: OwnWord & { slot: string }
  fault?: boolean
}

/** The sentence's parts; one that is asked without a grouping ends with a picker for it all the same. */
const parts = computed<Part[]>(() => {
  let place = 0
  let between = 0
  const said = answer.sentence_parts.map(({ text, slot }): Part => {
    const word = slot ? own?.[slot] : undefined
    const refused = slot === fault && isSlot(slot ?? '') ? question[slot as Slot] : undefined
    if (refused && isSlot(slot ?? '')) return { text: refused, slot: slot as Slot, fault: true }
    if (slot && word) return { text, own: { ...word, slot } }
    if (!slot || !isSlot(slot)) return { text }
    if (slot === 'through') return { text, slot, place: between++ }
    return slot === 'by' ? { text, slot, place: place++ } : { text, slot }
  })
  if (place > 0 || list) return said
  // A page with words of its own has its groups behind the leg.
  const before = own ? 'to' : 'period'
  const after = said.findIndex(({ slot }, i) => i > 0 && said[i - 1]?.slot === before && slot === undefined)
  const groups: Part[] = [{ text: ', ' }, { text: 'in total', slot: 'by', place: 0 }]
  return after < 0 ? said : [...said.slice(0, after), ...groups, ...said.slice(after)]
})

/** What the grouping at a place can be: anything but what another place has, or nothing. */
function groupings(place: number): string[] {
  const others = answer.by.filter((_, i) => i !== place)
  return [nothing(place), ...(book?.value?.groupings ?? []).filter((g) => !others.includes(g))]
}

function nothing(place: number): string {
  return place === 0 && answer.by.length < 2 ? 'in total' : 'nothing else'
}

/** What can stand at a place of the chain, or between its ends. */
function between(place: number): string[] {
  const others = answer.through.filter((_, i) => i !== place)
  const taken = [answer.from, answer.to, ...others]
  return [leaveOut, ...milestones.value.filter((m) => !taken.includes(m))]
}
const leaveOut = 'leave it out'

function pass(place: number, word: string) {
  const through = [...answer.through]
  through.splice(place, 1, ...(word === leaveOut ? [] : [word]))
  emit('change', { ...question, through: through.join(',') || undefined })
}

function pick(slot: Slot, word: string) {
  if (slot === 'in') {
    const unit = word.replace(atDestination, '')
    const rules = units.value.find((u) => u.name === unit)?.rules ?? []
    emit('change', {
      ...question,
      in: unit,
      calendar: word === unit ? undefined : 'destination',
      count: rules.includes(answer.count_rule) ? question.count : undefined,
    })
    return
  }
  emit('change', { ...question, [slot]: defaults.includes(word) ? undefined : word })
}

function group(place: number, word: string) {
  const by = [...answer.by]
  by.splice(place, 1, ...(word === nothing(place) ? [] : [word]))
  emit('change', { ...question, by: by.join(',') || undefined })
}
</script>

<template>
  <h1 data-test="sentence">
    <template v-for="(part, i) in parts" :key="i">
      <WordPicker
        v-if="part.own"
        :slot-name="part.own.slot"
        :text="part.text"
        :choices="part.own.choices"
        :names="part.own.names"
        :chosen="part.own.chosen"
        :example="part.own.example"
        @pick="emit('own', part.own.slot, $event)"
      />
      <WordPicker
        v-else-if="part.slot === 'through'"
        slot-name="through"
        :text="part.text"
        :choices="between(part.place ?? 0)"
        :names="names(part)"
        :chosen="answer.through[part.place ?? 0]"
        @pick="pass(part.place ?? 0, $event)"
      />
      <WordPicker
        v-else-if="part.place !== undefined"
        :slot-name="part.place === 0 ? 'by' : 'and-by'"
        :text="part.text"
        :choices="groupings(part.place)"
        :names="groupingNames(groupings(part.place), known)"
        :chosen="answer.by[part.place] ?? nothing(part.place)"
        @pick="group(part.place, $event)"
      />
      <WordPicker
        v-else-if="isWord(part.slot)"
        :slot-name="part.slot"
        :text="part.text"
        :choices="choices[part.slot]"
        :names="names(part)"
        :note="part.slot === 'count' ? refused : undefined"
        :chosen="chosen[part.slot]"
        :fault="part.fault"
        :example="examples[part.slot]"
        @pick="pick(part.slot, $event)"
      />
      <ConditionPicker
        v-else-if="part.slot === 'where'"
        :text="part.text"
        :fault="part.fault"
        @pick="emit('change', { ...question, where: $event || undefined })"
      />
      <span v-else>{{ part.text }}</span>
    </template>
    <WordPicker
      v-if="answer.by.length === 1 && !list"
      slot-name="and-by"
      text="and by another grouping"
      :icon="mdiPlusCircleOutline"
      :choices="groupings(1).slice(1)"
      :names="groupingNames(groupings(1), known)"
      @pick="group(1, $event)"
    />
    <ConditionPicker
      v-if="!answer.where"
      :text="fault === 'where' ? (question.where ?? '') : ''"
      :fault="fault === 'where'"
      @pick="emit('change', { ...question, where: $event || undefined })"
    />
  </h1>
</template>

<style scoped>
h1 {
  letter-spacing: -0.01em;
  text-wrap: pretty;
}
</style>
