<script setup lang="ts">
import { ref, watch } from 'vue'
import { type Layout, type Layouts, Problem, remove, sendJSON } from '@/api/client'
import { useAnswer } from '@/composables/useAnswer'

// What the columns of files mean, as loads have remembered it: looked at, renamed and deleted here.
const { loads } = defineProps<{
  /** How many loads were done here; after each, others may be kept. */ loads: number
}>()

const round = ref(0)
watch(
  () => loads,
  () => round.value++,
)
const { answer } = useAnswer<Layouts>(() => ({ path: '/layouts', query: {}, round: round.value }))

const opened = ref<Layout>()
const name = ref('')
const refused = ref('')

function open(layout: Layout) {
  opened.value = layout
  name.value = layout.name
  refused.value = ''
}

async function change(how: () => Promise<unknown>) {
  try {
    await how()
    opened.value = undefined
  } catch (error) {
    refused.value = error instanceof Problem ? error.message : String(error)
  }
  round.value++
}

const path = (layout: Layout) => `/layouts/${encodeURIComponent(layout.name)}`
const rename = (l: Layout) =>
  change(() => sendJSON('POST', `${path(l)}/rename`, {}, { name: name.value.trim() }))
const forget = (l: Layout) => change(() => remove(path(l)))
const meaning = (means?: string) => (!means || means === 'left-out' ? 'not read' : means.replace(/-/g, ' '))
/** Saves a layout as a file, which Import a layout and prairie-dusk layout import read. */
function exportLayout(l: Layout) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify(l, undefined, 2)], { type: 'application/json' }))
  link.download = `${l.name}.json`
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 60_000)
}

const wrongFile = ref('')
async function importLayout(files: File | File[] | null | undefined) {
  const [file] = files ? [files].flat() : []
  if (!file) return
  wrongFile.value = ''
  try {
    const layout = JSON.parse(await file.text()) as Layout
    await sendJSON('PUT', path(layout), {}, layout)
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error)
    wrongFile.value = `${file.name}: ${error instanceof SyntaxError ? 'this is no JSON' : why}`
  }
  round.value++
}

/** What a layout is told by in the list: its columns that are read, with what they mean where the heading does not say it. */
const gist = (l: Layout) =>
  l.columns
    .filter((c) => c.means && c.means !== 'left-out')
    .slice(0, 5)
    .map((c) => (c.heading === meaning(c.means) ? c.heading : `${c.heading} = ${meaning(c.means)}`))
    .join(', ')
</script>

<template>
  <section v-if="answer">
    <h2>Layouts</h2>
    <p class="muted">
      What the columns of files mean. The next file with the same headings is read in the same way.
    </p>
    <v-file-input
      class="import"
      label="Import a layout"
      accept=".json"
      variant="outlined"
      density="compact"
      :model-value="[]"
      :error-messages="wrongFile"
      hide-details="auto"
      data-test="layout-import"
      @update:model-value="importLayout"
    />
    <v-list v-if="answer.layouts.length > 0" class="panel" density="compact" data-test="layouts">
      <v-list-item
        v-for="l in answer.layouts"
        :key="l.name"
        :title="l.name"
        :subtitle="gist(l)"
        :data-test="`layout-${l.name}`"
        @click="open(l)"
      />
    </v-list>
    <v-dialog :model-value="!!opened" max-width="44rem" scrollable @update:model-value="opened = undefined">
      <v-card v-if="opened" :title="`The layout ${opened.name}`" data-test="layout-dialog">
        <v-card-text>
          <v-text-field
            v-model="name"
            label="Name"
            maxlength="100"
            density="compact"
            :error-messages="refused"
            data-test="layout-name"
          />
          <v-table density="compact">
            <thead>
              <tr>
                <th>heading</th>
                <th>taken for</th>
                <th>form, where a column does not tell</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="c in opened.columns" :key="c.heading">
                <td>{{ c.heading }}</td>
                <td>{{ meaning(c.means) }}{{ c.plan ? ', a plan' : '' }}</td>
                <td>
                  {{
                    [c.dates, c.decimals ? `${c.decimals} before decimals` : ''].filter(Boolean).join(', ')
                  }}
                </td>
              </tr>
            </tbody>
          </v-table>
        </v-card-text>
        <v-card-actions>
          <v-btn variant="text" data-test="layout-save-file" @click="exportLayout(opened)">Export</v-btn>
          <v-btn variant="text" data-test="layout-forget" @click="forget(opened)">Delete</v-btn>
          <v-spacer />
          <v-btn variant="text" @click="opened = undefined">Close</v-btn>
          <v-btn
            color="primary"
            variant="flat"
            :disabled="!name.trim() || name.trim() === opened.name"
            data-test="layout-rename"
            @click="rename(opened)"
            >Rename</v-btn
          >
        </v-card-actions>
      </v-card>
    </v-dialog>
  </section>
</template>

<style scoped>
.import {
  max-width: 22rem;
  margin-block: 8px;
}
</style>
