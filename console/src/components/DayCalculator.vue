<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import type { Book, DaysAnswer } from '@/api/client'
import { useAnswer } from '@/composables/useAnswer'
import { withWeekday } from '@/format'
import ChoiceField from './ChoiceField.vue'
import DayStrip from './DayStrip.vue'
import SideSheet from './SideSheet.vue'
import TabRow from './TabRow.vue'

// Days alone, for the call on the telephone: answered as one types, on any calendar, with the strip as the proof.
const { book } = defineProps<{ book: Book }>()
const emit = defineEmits<{ close: [] }>()

/** What can be asked: each with its own fields. */
const asks = { length: 'how long', day: 'which day', latest: 'latest start' } as const

const asked = ref<keyof typeof asks>('length')
const field = reactive({
  from: book.data_date,
  to: '',
  n: '5',
  wanted: '',
  unit: 'working-days',
  count: 'elapsed',
  roll: 'keep',
  calendar: book.calendar,
})

/** Only days and working days can be added to a day. */
const units = computed(() =>
  book.units.filter((u) => asked.value === 'length' || u.name === 'days' || u.name === 'working-days'),
)
const unit = computed(() => units.value.find((u) => u.name === field.unit)?.name ?? 'working-days')
const rules = computed(() => book.units.find((u) => u.name === unit.value)?.rules ?? [])

const written = (day: string) => /^\d{4}-\d\d-\d\d([T ]\d\d:\d\d.*)?$/.test(day.trim())
const whole = (n: string) => /^[+-]?\d+$/.test(n.trim())

/** The question, once enough is typed for one. */
const query = computed(() => {
  const { from, to, n, wanted, calendar, roll } = field
  const common = { calendar, in: unit.value }
  switch (asked.value) {
    case 'length': {
      const count = rules.value.includes(field.count) ? field.count : undefined
      return written(from) && written(to) ? { ...common, from: from.trim(), to: to.trim(), count } : undefined
    }
    case 'day':
      return written(from) && whole(n) ? { ...common, from: from.trim(), n: n.trim(), roll } : undefined
    default:
      return written(wanted) && whole(n) ? { ...common, wanted: wanted.trim(), n: n.trim() } : undefined
  }
})

const { answer, problem } = useAnswer<DaysAnswer>(() =>
  query.value ? { path: '/days', query: query.value } : undefined,
)
</script>

<template>
  <SideSheet title="Day calculator" :width="440" @close="emit('close')">
    <div class="calculator" data-test="calculator-panel">
      <TabRow :tabs="asks" :shown="asked" @show="asked = $event" />
      <div class="fields">
        <v-text-field
          v-if="asked !== 'latest'"
          v-model="field.from"
          label="from"
          placeholder="2026-06-29"
          data-test="calculator-from"
        />
        <v-text-field
          v-else
          v-model="field.wanted"
          label="wanted by"
          placeholder="2026-12-18"
          data-test="calculator-wanted"
        />
        <v-text-field
          v-if="asked === 'length'"
          v-model="field.to"
          label="to"
          placeholder="2026-07-10"
          data-test="calculator-to"
        />
        <v-text-field
          v-else
          v-model="field.n"
          :label="asked === 'day' ? 'number, minus for before' : 'takes'"
          inputmode="numeric"
          data-test="calculator-n"
        />
        <ChoiceField
          v-model="field.unit"
          label="in"
          :choices="Object.fromEntries(units.map((u) => [u.name, u.words]))"
          data-test="calculator-unit"
        />
        <ChoiceField
          v-if="asked === 'length' && rules.length > 1"
          v-model="field.count"
          label="counting"
          :choices="{ elapsed: 'start day not counted', 'both-ends': 'both ends' }"
        />
        <ChoiceField
          v-if="asked === 'day'"
          v-model="field.roll"
          label="on a day off"
          :choices="{ keep: 'keep it', next: 'the next working day', previous: 'the working day before' }"
        />
        <ChoiceField
          v-model="field.calendar"
          label="calendar"
          :choices="book.calendars"
          data-test="calculator-calendar"
        />
      </div>
      <p v-if="!query" class="muted">
        Type {{ asked === 'length' ? 'two days' : 'a day and a number' }}; a day is written
        2026-07-10<template v-if="unit.endsWith('hours')">T14:30</template>.
      </p>
      <p v-else-if="problem" class="bad" role="alert" data-test="calculator-problem">{{ problem.message }}</p>
      <div v-else-if="answer" aria-live="polite">
        <div data-test="calculator-words">
          <p v-if="answer.day" class="words">{{ withWeekday(answer.day) }}</p>
          <p v-else class="words">{{ answer.words }}</p>
          <p v-if="answer.working && answer.working !== answer.day">
            not a working day; the latest that is: <b>{{ withWeekday(answer.working) }}</b>
          </p>
        </div>
        <p class="muted small" data-test="calculator-sentence">{{ answer.sentence }}</p>
        <DayStrip v-if="answer.strip.length > 0" class="days" :days="answer.strip" />
        <p class="small" data-test="calculator-sum">{{ answer.sum_line }}</p>
        <p v-for="note in answer.notes" :key="note" class="amber small">{{ note }}</p>
      </div>
    </div>
  </SideSheet>
</template>

<style scoped>
.calculator,
.fields {
  display: grid;
  gap: 12px;
}

.fields {
  grid-template-columns: 1fr 1fr;
}

.words {
  font-size: 1.35rem;
  font-weight: 600;
}

.small {
  font-size: 0.85rem;
}

.days {
  margin: 10px 0;
}

.bad {
  color: rgb(var(--v-theme-error));
}
</style>
