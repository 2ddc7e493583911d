<script setup lang="ts">
import { mdiTrayArrowDown } from '@mdi/js'
import { computed, ref } from 'vue'
import { download, type Load, type Loads, Problem, send } from '@/api/client'
import FileReview from '@/components/FileReview.vue'
import LayoutList from '@/components/LayoutList.vue'
import LoadFiles from '@/components/LoadFiles.vue'
import LoadHistory from '@/components/LoadHistory.vue'
import SetAsideRows from '@/components/SetAsideRows.vue'
import StateNotice from '@/components/StateNotice.vue'
import UndoDialog from '@/components/UndoDialog.vue'
import { useAnswer } from '@/composables/useAnswer'
import { useLoad } from '@/composables/useLoad'
import { count } from '@/format'

// Drop files, see what they are taken for, answer what they leave open, import them, watch, read what became of them, fix the rest.
const {
  looks,
  progress,
  loaded,
  problem,
  doubtful,
  running,
  add,
  answer,
  mean,
  setPlan,
  apart,
  remove,
  bringIn,
  cancel,
} = useLoad()
const round = ref(0)
const { answer: earlier } = useAnswer<Loads>(() => ({ path: '/loads', query: {}, round: round.value }))

const usable = computed(() => looks.value.length > 0 && looks.value.every((l) => l.load))
const bytes = computed(() => looks.value.reduce((sum, l) => sum + l.file.size, 0))
const share = computed(() => (100 * (progress.value?.bytes ?? 0)) / Math.max(1, bytes.value))
const last = computed(() => earlier.value?.loads.find((l) => !l.undone_at)?.number)

/** What the book would become, if all files are imported; a file is looked at by itself. */
const ends = computed(() => {
  const all = looks.value.flatMap((l) => (l.load?.bounds ? [l.load.bounds] : []))
  const [one] = all
  if (!one) return ''
  const first =
    all
      .map((e) => e.first_day)
      .filter(Boolean)
      .sort()[0] ?? ''
  const date =
    all
      .map((e) => e.data_date)
      .filter(Boolean)
      .sort()
      .at(-1) ?? ''
  return [
    end('the book begins on', first, one.first_day_now),
    end('its data go through', date, one.data_date_now),
  ]
    .filter(Boolean)
    .join(', and ')
})

function end(words: string, then: string, now: string): string {
  if (!then) return ''
  return `${words} ${then}${now && now !== then ? ` (${now} now)` : ''}`
}

const picked = ref<File[]>([])
function choose(files: File | File[] | null | undefined) {
  const all = files ? [files].flat() : []
  if (all.length > 0) void add(all)
  picked.value = []
}

async function start(accepted = false) {
  await bringIn(accepted)
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

async function fix(load: Load, file: { name: string }) {
  refused.value = undefined
  try {
    await download(`/loads/${load.number}/waiting.csv`, { file: file.name }, `set-aside-${file.name}`)
  } catch (error) {
    refused.value = error instanceof Problem ? error : new Problem(0, String(error))
  }
}

const next = [
  { to: '/how-long', title: 'How long orders took' },
  { to: '/open', title: 'What is open' },
  { to: '/quality', title: 'What looks wrong in the records' },
]
</script>

<template>
  <div>
    <h1 data-test="sentence">Import files</h1>
    <p class="muted what">
      Exports as they are: CSV, XLSX, JSON or Parquet, plain or packed, of orders, lines, shipments, payments,
      statuses, customers, products, sites or places; working calendars as iCalendar. What each column means
      is shown before anything is imported. All files of a load are imported, or none.
    </p>
    <v-file-upload
      :model-value="picked"
      multiple
      :disabled="running"
      title="Drop files here, or choose them"
      :icon="mdiTrayArrowDown"
      :density="looks.length > 0 ? 'compact' : 'comfortable'"
      aria-label="Files to import"
      data-test="files"
      @update:model-value="choose"
    >
      <template #item><span /></template>
    </v-file-upload>

    <div v-if="looks.length > 0" class="looks" data-test="looks">
      <FileReview
        v-for="l in looks"
        :key="l.file.name"
        :look="l"
        :disabled="running"
        @remove="remove(l)"
        @answer="(q, value) => answer(l, q, value)"
        @mean="(heading, meaning) => mean(l, heading, meaning)"
        @plan="(heading, plan) => setPlan(l, heading, plan)"
      />
      <p v-if="apart" class="muted" data-test="apart">
        Answers to the questions of a file hold for that file alone, so it is imported as a load of its own.
      </p>
      <p v-if="ends" data-test="ends">After this, {{ ends }}.</p>
      <p class="act">
        <v-btn
          v-if="!running"
          color="primary"
          size="large"
          :disabled="!usable"
          data-test="import"
          @click="start()"
        >
          Import {{ looks.length === 1 ? looks[0]?.file.name : `all ${looks.length} files` }}
        </v-btn>
        <v-btn v-else variant="outlined" size="large" @click="cancel">Cancel</v-btn>
        <span v-if="running" class="muted">Nothing is imported if you cancel.</span>
      </p>
    </div>
    <div v-if="running" class="running" data-test="progress">
      <v-progress-linear :model-value="share" color="primary" height="8" aria-label="How far the import is" />
      <p v-if="progress?.running">
        {{ progress.file }}: {{ progress.phase }}, {{ count(progress.rows) }} rows
        <span v-if="progress.set_aside > 0" class="amber">, {{ count(progress.set_aside) }} set aside</span>
      </p>
      <p v-else class="muted">Sending …</p>
    </div>
    <StateNotice v-if="problem" :problem="problem" @retry="start()" />
    <v-dialog :model-value="doubtful.length > 0" max-width="38rem" @update:model-value="doubtful = []">
      <v-card title="Import the rest?" data-test="accept-dialog">
        <v-card-text>
          <p v-for="why in doubtful" :key="why">{{ why }}.</p>
          <p>So many rows can mean that a column is read in the wrong way. Nothing has been imported yet.</p>
        </v-card-text>
        <v-card-actions>
          <v-spacer />
          <v-btn variant="text" @click="doubtful = []">Look again</v-btn>
          <v-btn color="primary" data-test="accept" @click="start(true)">Import the rest</v-btn>
        </v-card-actions>
      </v-card>
    </v-dialog>

    <section v-if="loaded" data-test="loaded">
      <h2>Load {{ loaded.number }} is in the book</h2>
      <LoadFiles :load="loaded" />
      <ul class="notes">
        <li v-for="n in loaded.notes" :key="n.file + n.text">{{ n.file }}: {{ n.text }}</li>
      </ul>
      <p v-if="loaded.statuses" class="amber" data-test="unlisted-statuses">
        Not in the list of statuses: {{ loaded.statuses.join(', ') }}.
        <router-link to="/statuses?show=list">Say what they are</router-link>
      </p>
      <p class="act" data-test="next">
        <v-btn v-for="n in next" :key="n.to" :to="n.to" variant="outlined">{{ n.title }}</v-btn>
      </p>
      <template v-if="loaded.set_aside > 0">
        <h2>Set aside: {{ count(loaded.set_aside) }}</h2>
        <p class="act">
          <v-btn
            v-for="f in waiting(loaded)"
            :key="f.name"
            variant="outlined"
            data-test="fix"
            @click="fix(loaded, f)"
          >
            Download those of {{ f.name }} to fix
          </v-btn>
        </p>
        <SetAsideRows :load="loaded" />
      </template>
    </section>

    <section v-if="earlier && earlier.loads.length > 0">
      <h2>Imported so far</h2>
      <StateNotice v-if="refused" :problem="refused" @retry="round++" />
      <LoadHistory :loads="earlier.loads">
        <template #actions="{ load }">
          <template v-if="load.undone_at">
            undone
            <v-btn
              v-if="load.redoable"
              variant="text"
              size="small"
              :data-test="`redo-${load.number}`"
              @click="change(load, 'redo')"
              >Redo</v-btn
            >
          </template>
          <template v-else>
            <v-btn
              v-for="f in waiting(load)"
              :key="f.name"
              variant="text"
              size="small"
              :aria-label="`Download the rows of ${f.name} to fix`"
              @click="fix(load, f)"
              >Fix</v-btn
            >
            <v-btn
              v-if="load.number === last"
              variant="text"
              size="small"
              :data-test="`undo-${load.number}`"
              @click="undoing = load"
              >Undo</v-btn
            >
          </template>
        </template>
      </LoadHistory>
      <p v-if="earlier.shown" class="muted" data-test="shown">
        Answers show the records as of load {{ earlier.shown }}.
      </p>
      <UndoDialog :load="undoing" @close="undoing = undefined" @undo="change($event, 'undo')" />
    </section>
    <LayoutList :loads="round" />
  </div>
</template>

<style scoped>
.what {
  max-width: 60rem;
  margin-bottom: 16px;
}

.looks {
  margin-block: 20px;
  display: grid;
  gap: 16px;
}

.act {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
  margin-block: 16px;
}

.running {
  display: grid;
  gap: 8px;
  margin-block: 16px;
}

.notes {
  list-style: none;
  padding: 0;
  margin-block: 8px;
}
</style>
