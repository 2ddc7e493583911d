<script setup lang="ts">
import { computed, ref } from 'vue'
import { download, type Load, type Loads, Problem, send } from '@/api/client'
import FileColumns from '@/components/FileColumns.vue'
import LayoutList from '@/components/LayoutList.vue'
import LoadFiles from '@/components/LoadFiles.vue'
import SetAsideRows from '@/components/SetAsideRows.vue'
import StateNotice from '@/components/StateNotice.vue'
import { useAnswer } from '@/composables/useAnswer'
import { useLoad } from '@/composables/useLoad'
import { count, counted } from '@/format'

// Drop files, see what they are taken for, bring them in, watch, read what became of them, mend the rest.
const { looks, reading, meanings, progress, loaded, problem, running, add, remove, bringIn, cancel } =
  useLoad()
const dateForms = [
  { title: 'as each column tells', value: '' },
  { title: 'day first: 04/07/2026 is 4 July', value: 'day-first' },
  { title: 'month first: 04/07/2026 is 7 April', value: 'month-first' },
  { title: 'year first: 26/07/04 is 4 July 2026', value: 'year-first' },
]
const decimalForms = [
  { title: 'as each column tells', value: '' },
  { title: 'a point: 1.234 is less than 2', value: 'point' },
  { title: 'a comma: 1.234 is 1234', value: 'comma' },
]
const meant = (answers: string[]) => answers.map((value) => ({ title: value.replace(/-/g, ' '), value }))
const round = ref(0)
const { answer: earlier } = useAnswer<Loads>(() => ({ path: '/loads', query: {}, round: round.value }))

const dragging = ref(false)
const usable = computed(() => looks.value.length > 0 && looks.value.every((l) => !l.refused))
const bytes = computed(() => looks.value.reduce((sum, l) => sum + l.file.size, 0))
const share = computed(() =>
  progress.value ? Math.min(1, progress.value.bytes / Math.max(1, bytes.value)) : 0,
)
const last = computed(() => earlier.value?.loads.find((l) => !l.undone_at)?.number)

function drop(event: DragEvent) {
  dragging.value = false
  if (event.dataTransfer) add(event.dataTransfer.files)
}

function choose(event: Event) {
  const input = event.target as HTMLInputElement
  if (input.files) add([...input.files])
  input.value = ''
}

async function start() {
  await bringIn()
  round.value++
}

const undoing = ref<Load>()
const refused = ref<Problem>()
async function change(load: Load, how: 'undo' | 'redo') {
  undoing.value = undefined
  refused.value = undefined
  try {
    await send<Loads>(`/loads/${load.number}/${how}`, {})
    loaded.value = undefined
  } catch (error) {
    refused.value = error instanceof Problem ? error : new Problem(0, String(error))
  }
  round.value++
}

const waiting = (load: Load) => load.files.filter((f) => f.waiting > 0)

async function mend(load: Load, file: { name: string }) {
  refused.value = undefined
  try {
    await download(`/loads/${load.number}/waiting.csv`, { file: file.name }, `set-aside-${file.name}`)
  } catch (error) {
    refused.value = error instanceof Problem ? error : new Problem(0, String(error))
  }
}

function size(n: number): string {
  return n < 1e6 ? `${count(Math.ceil(n / 1000))} kB` : `${(n / 1e6).toFixed(1)} MB`
}
</script>

<template>
  <div>
    <h1 data-test="sentence">What is to be brought in?</h1>
    <label
      class="drop panel"
      :class="{ dragging }"
      @dragover.prevent="dragging = true"
      @dragleave="dragging = false"
      @drop.prevent="drop"
    >
      <input
        type="file"
        multiple
        accept=".csv,.tsv,.txt,.xlsx,.json,.ndjson,.jsonl,.parquet,.ics,.gz,.zst,.bz2,.zip"
        :disabled="running"
        @change="choose"
      />
      <b>Drop files here, or choose them.</b>
      <span class="muted">
        Orders, lines, shipments, payments, status records, customers, products, sites and places as CSV,
        XLSX, JSON or Parquet; working calendars as iCalendar. Their columns tell what they are. All of them
        come in, or none.
      </span>
    </label>

    <ul v-if="looks.length > 0" class="looks" data-test="looks">
      <li v-for="l in looks" :key="l.file.name" class="panel" :class="{ refused: l.refused }">
        <div>
          <b>{{ l.file.name }}</b> <span class="muted">{{ size(l.file.size) }}</span>
          <template v-if="l.load">
            is taken for
            <b>{{ l.load.files.map((f) => f.kind.replace(/-/g, ' ')).join(' and ') }}</b>
          </template>
          <button
            type="button"
            :aria-label="`Leave ${l.file.name} out`"
            :disabled="running"
            @click="remove(l)"
          >
            ×
          </button>
        </div>
        <p v-if="l.refused" class="amber">{{ l.refused }}</p>
        <v-select
          v-for="q in l.load ? [] : l.questions"
          :key="q.column"
          :model-value="meanings[q.column]"
          :items="meant(q.answers)"
          :label="`What the column ${q.column} means`"
          :hint="q.asks"
          persistent-hint
          density="compact"
          class="meaning"
          data-test="meaning"
          @update:model-value="meanings = { ...meanings, [q.column]: $event }"
        />
        <template v-if="l.load">
          <p v-for="u in l.load.layouts" :key="u.file" data-test="read-by">
            Read by the layout <b>{{ u.layout }}</b><template v-if="u.new"
              >; new: {{ u.new.join(', ') }}</template
            ><template v-if="u.missing">; it lacks {{ u.missing.join(', ') }}</template
            >.
          </p>
          <FileColumns
            v-if="l.load.columns"
            v-model="meanings"
            :columns="l.load.columns"
            :names="l.load.meanings ?? []"
          />
          <p v-if="l.load.skipped" data-test="skipped">
            {{ counted(l.load.skipped_rows ?? 0, 'row') }}
            {{ l.load.skipped_rows === 1 ? 'is no record and is' : 'are no records and are' }} left out:
            <template v-for="(row, i) in l.load.skipped.slice(0, 5)" :key="row.row">
              {{ i > 0 ? '; ' : '' }}row {{ row.row }}, {{ row.why }}: “{{ row.text }}”
            </template>
          </p>
          <p v-if="l.load.set_aside > 0" class="amber">
            {{ count(l.load.set_aside) }} of the first rows would be set aside, such as row
            {{ l.load.rows[0]?.row }}: {{ l.load.rows[0]?.column }} {{ l.load.rows[0]?.value }} is
            {{ l.load.rows[0]?.reason }}
          </p>
        </template>
      </li>
    </ul>

    <div v-if="looks.length > 0" class="reading">
      <v-select
        v-model="reading.dates"
        :items="dateForms"
        label="Dates that could be read in two ways"
        density="compact"
        hide-details
        data-test="read-dates"
      />
      <v-select
        v-model="reading.decimals"
        :items="decimalForms"
        label="Decimal mark, where no number tells"
        density="compact"
        hide-details
        data-test="read-decimals"
      />
    </div>

    <p v-if="looks.length > 0" class="act">
      <button
        v-if="!running"
        type="button"
        class="main"
        :disabled="!usable"
        data-test="bring-in"
        @click="start"
      >
        Bring {{ looks.length === 1 ? 'it' : `all ${looks.length}` }} in
      </button>
      <button v-else type="button" class="main" @click="cancel">Cancel; nothing will have come in</button>
    </p>
    <div v-if="running" class="panel running" data-test="progress">
      <progress :value="share" max="1" aria-label="How far the load is" />
      <p v-if="progress?.running">
        {{ progress.file }}: {{ progress.phase }}, {{ count(progress.rows) }} rows
        <span v-if="progress.set_aside > 0" class="amber">, {{ count(progress.set_aside) }} set aside</span>
      </p>
      <p v-else class="muted">Sending …</p>
    </div>
    <StateNotice v-if="problem" :problem="problem" @retry="start" />

    <section v-if="loaded" data-test="loaded">
      <h2>Load {{ loaded.number }} is in</h2>
      <LoadFiles :loads="[loaded]" />
      <p v-if="loaded.statuses" class="amber" data-test="unlisted-statuses">
        Not in the list of statuses: {{ loaded.statuses.join(', ') }}.
        <router-link to="/statuses?show=list">Say what they are</router-link>
      </p>
      <template v-if="loaded.set_aside > 0">
        <h2>
          Set aside: {{ count(loaded.set_aside) }}
          <button
            v-for="f in waiting(loaded)"
            :key="f.name"
            type="button"
            class="link"
            data-test="mend"
            @click="mend(loaded, f)"
          >
            Take those of {{ f.name }} away to mend
          </button>
        </h2>
        <SetAsideRows :load="loaded" />
      </template>
    </section>

    <section v-if="earlier && earlier.loads.length > 0">
      <h2>What came in before</h2>
      <StateNotice v-if="refused" :problem="refused" @retry="round++" />
      <LoadFiles :loads="earlier.loads" numbered>
        <template #last="{ load }">
          <template v-if="load.undone_at">
            undone
            <button
              v-if="load.redoable"
              type="button"
              class="undo"
              :data-test="`redo-${load.number}`"
              @click="change(load, 'redo')"
            >
              Redo
            </button>
          </template>
          <template v-else>
            <button
              v-for="f in waiting(load)"
              :key="f.name"
              type="button"
              class="link"
              :aria-label="`Mend ${f.name}`"
              @click="mend(load, f)"
            >
              Mend
            </button>
            {{ ' ' }}
            <button
              v-if="load.number === last"
              type="button"
              class="undo"
              :data-test="`undo-${load.number}`"
              @click="undoing = load"
            >
              Undo
            </button>
          </template>
        </template>
      </LoadFiles>
      <p v-if="earlier.shown" class="muted" data-test="shown">
        Answers show the records as of load {{ earlier.shown }}.
      </p>
      <v-dialog :model-value="!!undoing" max-width="34rem" @update:model-value="undoing = undefined">
        <v-card v-if="undoing" :title="`Undo load ${undoing.number}?`" data-test="undo-dialog">
          <v-card-text>
            <p v-for="f in undoing.files" :key="f.name + f.kind">
              <b>{{ f.name }}</b> ({{ f.kind.replace(/-/g, ' ') }}): {{ counted(f.new, 'new record') }}
              {{ f.new === 1 ? 'goes' : 'go' }}, {{ counted(f.changed, 'changed one') }}
              {{ f.changed === 1 ? 'is' : 'are' }} as before.
            </p>
            <p>Until something else is loaded, Redo brings it back.</p>
          </v-card-text>
          <v-card-actions>
            <v-spacer />
            <v-btn @click="undoing = undefined">Keep it</v-btn>
            <v-btn color="primary" variant="flat" data-test="undo-sure" @click="change(undoing, 'undo')"
              >Undo it</v-btn
            >
          </v-card-actions>
        </v-card>
      </v-dialog>
    </section>
    <LayoutList :loads="round" />
  </div>
</template>

<style scoped>
.reading {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(18rem, 1fr));
  gap: 0.75rem;
  max-width: 44rem;
  margin-block: 0.75rem;
}

h2 a {
  font-size: 0.9rem;
  font-weight: 400;
  margin-left: 12px;
}

.drop {
  display: grid;
  gap: 6px;
  padding: 28px;
  border-style: dashed;
  border-width: 2px;
  cursor: pointer;
  position: relative;
}

.drop:focus-within {
  outline: 2px solid rgb(var(--v-theme-secondary));
  outline-offset: 2px;
}

.drop.dragging {
  border-color: rgb(var(--v-theme-secondary));
}

.drop input {
  position: absolute;
  opacity: 0;
  inset: 0;
}

.looks {
  list-style: none;
  padding: 0;
  margin: 16px 0;
  display: grid;
  gap: 8px;
}

.looks li {
  padding: 10px 14px;
  font-size: 0.92rem;
}

.looks li > div {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: baseline;
}

.looks li button {
  margin-left: auto;
  font-size: 1.2rem;
  width: 28px;
}

.meaning {
  width: min(28rem, 100%);
  margin-top: 0.5rem;
}

.refused {
  border-color: rgb(var(--v-theme-error));
}

.act {
  margin: 16px 0;
}

.main {
  padding: 10px 18px;
  border-radius: 8px;
  font-weight: 600;
  background: rgb(var(--v-theme-primary));
  color: rgb(var(--v-theme-surface));
}

.main:disabled {
  opacity: 0.5;
}

.running {
  padding: 14px;
}

.running progress {
  width: 100%;
  accent-color: rgb(var(--v-theme-primary));
}

.undo {
  color: rgb(var(--v-theme-secondary));
  text-decoration: underline;
}
</style>
