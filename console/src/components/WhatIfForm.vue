<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Calendars, Values } from '@/api/client'
import ChoiceField from '@/components/ChoiceField.vue'
import { vOneRole } from '@/oneRole'
import { useAnswer } from '@/composables/useAnswer'

// What is supposed: changes of calendars, cut-offs and sites, one after the other. Nothing of them is saved.
const changes = defineModel<readonly string[]>({ required: true })

const kinds = {
  holiday: 'a holiday more',
  'working-day': 'a working day more',
  week: 'another working week',
  'cut-off': 'another cut-off',
  calendar: 'another calendar for a site',
  site: 'a place served by another site',
}
type Kind = keyof typeof kinds
/** What each change is of, and what it becomes. */
const fields: Readonly<
  Record<Kind, readonly [of: 'calendar' | 'site' | 'place', becomes: string, example: string]>
> = {
  holiday: ['calendar', 'Day', '2026-10-30'],
  'working-day': ['calendar', 'Day', '2026-10-26'],
  week: ['calendar', 'Working days', 'Mon Tue Wed Thu'],
  'cut-off': ['site', 'Time of day', '16:00'],
  calendar: ['site', 'Calendar', 'Galway'],
  site: ['place', 'Site', 'Galway'],
}
const kind = ref<Kind>('cut-off')
const [name, value] = [ref(''), ref('')]

const { answer: calendars } = useAnswer<Calendars>(() => ({ path: '/calendars', query: {} }))
const { answer: sites } = useAnswer<Values>(() => ({ path: '/fields/site/values', query: {} }))
const { answer: places } = useAnswer<Values>(() => ({ path: '/fields/place/values', query: {} }))
const names = computed(() => {
  if (fields[kind.value][0] === 'calendar') return calendars.value?.calendars.map((c) => c.name) ?? []
  return (fields[kind.value][0] === 'site' ? sites : places).value?.values ?? []
})

function add() {
  if (!name.value || !value.value.trim()) return
  changes.value = [...changes.value, `${kind.value} ${name.value}=${value.value.trim()}`]
  name.value = value.value = ''
}
</script>

<template>
  <form class="supposed" data-test="what-if" @submit.prevent="add">
    <ChoiceField v-model="kind" label="What if there were" class="kind" :choices="kinds" data-test="what" />
    <v-autocomplete
      v-model="name"
      v-one-role
      class="name"
      :items="names"
      :label="{ calendar: 'Calendar', site: 'Site', place: 'Place' }[fields[kind][0]]"
      data-test="what-of"
    />
    <v-text-field
      v-model="value"
      class="value"
      :label="fields[kind][1]"
      :placeholder="fields[kind][2]"
      persistent-placeholder
      data-test="what-value"
    />
    <v-btn type="submit" variant="outlined" data-test="suppose">Suppose</v-btn>
    <span class="chips">
      <v-chip
        v-for="(change, i) in changes"
        :key="change"
        closable
        :close-label="`Without ${change}`"
        data-test="supposed"
        @click:close="changes = changes.filter((_, at) => at !== i)"
        >{{ change }}</v-chip
      >
    </span>
  </form>
</template>

<style scoped>
.supposed {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  margin-bottom: 14px;
}

.kind {
  max-width: 260px;
}

.name,
.value {
  max-width: 200px;
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
</style>
