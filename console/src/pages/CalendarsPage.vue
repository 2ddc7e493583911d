<script setup lang="ts">
import { computed, inject, ref, watch } from 'vue'
import { type LocationQueryRaw, useRoute, useRouter } from 'vue-router'
import { type CalendarComparison, download } from '@/api/client'
import CalendarDayEditor from '@/components/CalendarDayEditor.vue'
import CalendarRules from '@/components/CalendarRules.vue'
import StateNotice from '@/components/StateNotice.vue'
import WordPicker from '@/components/WordPicker.vue'
import YearGrid from '@/components/YearGrid.vue'
import { useAnswer } from '@/composables/useAnswer'
import { useCalendar } from '@/composables/useCalendar'
import { count, decimal, withWeekday } from '@/format'
import { BOOK, CHANGED } from '@/keys'

// A calendar over a year, beside another, and its editor: what a change does to lengths is shown before it is saved.
const book = inject(BOOK)
const route = useRoute()
const router = useRouter()
const text = (key: string) => (typeof route.query[key] === 'string' ? route.query[key] : '')

const name = computed(() => text('name') || book?.value?.calendar)
const year = computed(() => Number(text('year')) || Number(book?.value?.data_date.slice(0, 4)) || undefined)
const beside = computed(() => text('beside') || undefined)
/** Not known until the book is. */
const exists = computed(() =>
  book?.value?.calendars.some((c) => c.toLowerCase() === name.value?.toLowerCase()),
)
const isNew = computed(() => exists.value === false)
const calendar = useCalendar(
  name,
  year,
  exists,
  inject(CHANGED, () => {}),
)
const { answer, problem, loading, retry, draft, definition, effect, refused, saving } = calendar

const { answer: comparison } = useAnswer<CalendarComparison>(() =>
  name.value && beside.value && exists.value
    ? {
        path: `/calendars/${encodeURIComponent(name.value)}/differences`,
        query: { with: beside.value, year: year.value },
      }
    : undefined,
)
const differing = computed(() => new Set(comparison.value?.days.map((d) => d.one.day)))

const shownYear = computed(() => effect.value?.year ?? answer.value?.year)
const chosen = ref<string>()
watch([name, year], () => (chosen.value = undefined))

const others = computed(() => (book?.value?.calendars ?? []).filter((c) => c !== name.value))
const years = computed(() => {
  const middle = Number(book?.value?.data_date.slice(0, 4)) || 2026
  return Array.from({ length: 7 }, (_, i) => String(middle + 2 - i))
})

function change(query: LocationQueryRaw) {
  router.push({ query: { ...route.query, ...query } })
}

const file = (form: string) =>
  download(`/calendars/${encodeURIComponent(name.value ?? '')}/file`, { form }, `${name.value}.${form}`)

/** What is known of the calendar as it is saved, in one line. */
const facts = computed(() => {
  const c = answer.value
  if (!c || isNew.value) return []
  return [
    c.orders > 0
      ? `counts ${count(c.orders)} orders${c.sites.length > 0 ? ` of ${c.sites.join(', ')}` : ''}`
      : 'counts no order',
    c.coverage ? `holidays known ${c.coverage}` : 'no holidays known',
  ]
})
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="name && (answer || isNew)">
      <h1 data-test="sentence">
        Which days are worked by the calendar
        <WordPicker
          slot-name="name"
          :text="name"
          :choices="book?.calendars ?? []"
          :chosen="name"
          example="name of a new one"
          @pick="change({ name: $event })"
        />
        in
        <WordPicker
          slot-name="year"
          :text="String(year)"
          :choices="years"
          :chosen="String(year)"
          example="2024"
          @pick="change({ year: $event })"
        />, beside
        <WordPicker
          slot-name="beside"
          :text="beside ?? 'no other'"
          :choices="['no other', ...others]"
          :chosen="beside ?? 'no other'"
          @pick="change({ beside: $event === 'no other' ? undefined : $event })"
        />?
      </h1>
      <p v-if="isNew" class="amber" data-test="new">A new calendar: nothing of it is saved yet.</p>
      <p v-if="shownYear" class="facts" data-test="facts">
        <b>{{ shownYear.working_days }}</b> working days in {{ shownYear.year
        }}<template v-for="f in facts" :key="f"> · {{ f }}</template>
        <span v-if="!shownYear.known" class="amber">
          · holidays unknown for all or part of {{ shownYear.year }}: its days follow the weekly pattern
          there</span
        >
      </p>
      <div v-if="draft" class="panel draft" role="status" data-test="effect">
        <p v-if="refused" class="bad">{{ refused }}</p>
        <template v-else-if="effect">
          <p>
            <b>Before you save:</b> {{ effect.words
            }}<template v-if="effect.moved > 0 && effect.mean_before !== null && effect.mean_after !== null"
              >; the mean goes from {{ decimal(effect.mean_before, 2) }} to
              {{ decimal(effect.mean_after, 2) }}</template
            >.
          </p>
          <p class="muted small">{{ effect.sentence }}</p>
          <p v-if="effect.examples.length > 0" class="small">
            <template v-for="(e, i) in effect.examples.slice(0, 5)" :key="e.number"
              >{{ i > 0 ? ' · ' : ''
              }}<router-link :to="{ path: '/orders', query: { order: e.number } }">{{
                e.number
              }}</router-link>
              {{ e.before }} → {{ e.after }}</template
            >
          </p>
        </template>
        <p v-else class="muted">Counting what it would change …</p>
        <div class="buttons">
          <v-btn
            variant="flat"
            :loading="saving"
            :disabled="!effect || refused !== ''"
            data-test="save"
            @click="calendar.save"
            >Save the calendar</v-btn
          >
          <v-btn data-test="discard" @click="calendar.drop">Discard</v-btn>
        </div>
      </div>
      <div class="columns">
        <div>
          <YearGrid
            v-if="shownYear"
            class="panel grid"
            :days="shownYear.days"
            :differing="differing"
            :chosen="chosen"
            @choose="chosen = $event"
          />
          <p class="legend small muted" aria-hidden="true">
            <span class="key holiday">H</span> holiday <span class="key half">½</span> half day
            <span class="key extra">+</span> extra working day <span class="key weekend">–</span> weekend
            <template v-if="beside"><span class="key differs">8</span> {{ beside }} differs </template
            ><u>8</u> holidays unknown · the number beside a month is its working days
          </p>
          <section v-if="comparison" data-test="comparison">
            <h2>{{ comparison.sentence }}</h2>
            <p>
              On {{ comparison.days.length }}. Working days: {{ name }} {{ comparison.working[0] }},
              {{ beside }} {{ comparison.working[1] }}.
              <template v-if="comparison.other_hours > 0">
                On {{ comparison.other_hours }} further days both work, in other hours.
              </template>
              <span v-if="draft" class="amber">As saved; the change above is not in it.</span>
            </p>
            <div
              v-if="comparison.days.length > 0"
              class="scroll panel"
              tabindex="0"
              role="region"
              aria-label="Days that differ"
            >
              <table class="plain">
                <thead>
                  <tr>
                    <th scope="col">day</th>
                    <th scope="col">{{ name }}</th>
                    <th scope="col">{{ beside }}</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="d in comparison.days" :key="d.one.day">
                    <td>{{ withWeekday(d.one.day) }}</td>
                    <td v-for="(side, i) in [d.one, d.other]" :key="i">
                      {{ side.kind }}{{ side.name ? `, ${side.name}` : '' }}
                      <span class="muted">{{ side.hours }}</span>
                    </td>
                  </tr>
                </tbody>
              </table>
            </div>
          </section>
        </div>
        <aside class="panel side">
          <CalendarDayEditor
            v-if="chosen"
            :key="chosen"
            :day="chosen"
            :entry="calendar.entryOf(chosen)"
            :usual-hours="definition?.hours.at(-1)?.hours ?? ''"
            @write="calendar.write(chosen, $event)"
          />
          <p v-else class="muted small">Choose a day to change what it is.</p>
          <CalendarRules
            v-if="definition"
            :definition="definition"
            :year="year ?? 0"
            @change="calendar.change"
          />
          <p v-if="!isNew" class="small files">
            Export
            <v-btn size="small" data-test="file-ics" @click="file('ics')">iCalendar</v-btn>
            <v-btn size="small" @click="file('csv')">CSV</v-btn>
          </p>
        </aside>
      </div>
    </template>
    <v-skeleton-loader v-else boilerplate type="heading, table" />
  </div>
</template>

<style scoped>
.facts {
  margin-bottom: 16px;
}

.draft {
  padding: 14px 18px;
  margin-bottom: 18px;
  border-color: rgb(var(--v-theme-secondary));
  display: grid;
  gap: 6px;
}

.buttons {
  display: flex;
  gap: 18px;
  margin-top: 4px;
}

.columns {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 316px;
  gap: 20px;
  align-items: start;
}

.grid {
  padding: 16px;
}

.side {
  padding: 16px;
  display: grid;
  gap: 14px;
}

.small {
  font-size: 0.85rem;
}

.legend {
  margin: 8px 4px 0;
}

.key {
  display: inline-grid;
  place-items: center;
  width: 20px;
  height: 18px;
  margin: 0 2px 0 8px;
  border-radius: 4px;
  font-size: 0.72rem;
}

.key.holiday {
  color: rgb(var(--v-theme-secondary));
  border: 1px dashed rgb(var(--v-theme-secondary));
}

.key.half {
  border: 1px solid rgb(var(--v-theme-primary));
  background: linear-gradient(135deg, rgb(var(--v-theme-primary)) 50%, transparent 50%);
}

.key.extra {
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-surface));
}

.key.differs {
  box-shadow: 0 0 0 2px rgb(var(--v-theme-secondary));
}

.bad {
  color: rgb(var(--v-theme-error));
}

@media (max-width: 1100px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
