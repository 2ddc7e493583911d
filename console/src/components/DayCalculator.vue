<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue'
import type { Book, DaysAnswer } from '@/api/client'
import { useAnswer } from '@/composables/useAnswer'
import { withWeekday } from '@/format'
import DayStrip from './DayStrip.vue'

// Days alone, for the call on the telephone: answered as one types, on any calendar, with the strip as the proof.
const { book } = defineProps<{ book: Book }>()
const emit = defineEmits<{ close: [] }>()

/** What can be asked: each with its own fields. */
const asks = [
  { key: 'length', words: 'how long' },
  { key: 'day', words: 'which day' },
  { key: 'latest', words: 'latest start' },
] as const

const asked = ref<(typeof asks)[number]['key']>('length')
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

const first = ref<HTMLInputElement>()
onMounted(() => first.value?.focus())
</script>

<template>
  <aside
    class="calculator panel"
    aria-label="Day calculator"
    data-test="calculator-panel"
    @keydown.esc="emit('close')"
  >
    <button type="button" class="close" aria-label="Close" @click="emit('close')">×</button>
    <div class="asks" role="group" aria-label="What to work out">
      <button
        v-for="a in asks"
        :key="a.key"
        type="button"
        :aria-pressed="asked === a.key"
        :data-test="`ask-${a.key}`"
        @click="asked = a.key"
      >
        {{ a.words }}
      </button>
    </div>
    <div class="fields">
      <label v-if="asked !== 'latest'"
        >from
        <input ref="first" v-model="field.from" placeholder="2026-06-29" data-test="calculator-from" />
      </label>
      <label v-else
        >wanted by <input v-model="field.wanted" placeholder="2026-12-18" data-test="calculator-wanted"
      /></label>
      <label v-if="asked === 'length'"
        >to <input v-model="field.to" placeholder="2026-07-10" data-test="calculator-to" />
      </label>
      <label v-else
        >{{ asked === 'day' ? 'number, minus for before' : 'takes' }}
        <input v-model="field.n" class="short" inputmode="numeric" data-test="calculator-n" />
      </label>
      <label
        >in
        <select v-model="field.unit" data-test="calculator-unit">
          <option v-for="u in units" :key="u.name" :value="u.name">{{ u.words }}</option>
        </select>
      </label>
      <label v-if="asked === 'length' && rules.length > 1"
        >counting
        <select v-model="field.count">
          <option value="elapsed">start day not counted</option>
          <option value="both-ends">both ends</option>
        </select>
      </label>
      <label v-if="asked === 'day'"
        >on a rest day
        <select v-model="field.roll">
          <option value="keep">keep it</option>
          <option value="next">the next working day</option>
          <option value="previous">the working day before</option>
        </select>
      </label>
      <label
        >calendar
        <select v-model="field.calendar" data-test="calculator-calendar">
          <option v-for="name in book.calendars" :key="name">{{ name }}</option>
        </select>
      </label>
    </div>
    <p v-if="!query" class="muted">
      Type {{ asked === 'length' ? 'two days' : 'a day and a number' }}; a day is written 2026-07-10<template
        v-if="unit.endsWith('hours')"
        >T14:30</template
      >.
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
  </aside>
</template>

<style scoped>
.calculator {
  position: fixed;
  right: 20px;
  bottom: 20px;
  width: min(420px, calc(100vw - 40px));
  max-height: calc(100vh - 40px);
  overflow-y: auto;
  padding: 18px 20px 20px;
  box-shadow: 0 12px 40px rgb(0 0 0 / 22%);
  z-index: 6;
}

.close {
  position: absolute;
  right: 10px;
  top: 6px;
  font-size: 1.5rem;
  width: 36px;
  height: 36px;
}

.asks {
  display: flex;
  gap: 4px;
  margin-bottom: 12px;
}

.asks button {
  padding: 4px 10px;
  border-radius: 999px;
  border: 1px solid rgb(var(--v-theme-line));
  font-size: 0.9rem;
}

.asks button[aria-pressed='true'] {
  border-color: rgb(var(--v-theme-secondary));
  color: rgb(var(--v-theme-secondary));
  font-weight: 600;
}

.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
  margin-bottom: 12px;
}

label {
  font-size: 0.8rem;
  color: rgb(var(--v-theme-muted));
}

input,
select {
  display: block;
  width: 100%;
  margin-top: 2px;
  padding: 5px 8px;
  font: inherit;
  font-size: 0.95rem;
  color: rgb(var(--v-theme-on-surface));
  background: rgb(var(--v-theme-background));
  border: 1px solid rgb(var(--v-theme-line));
  border-radius: 6px;
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
