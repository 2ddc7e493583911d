<script setup lang="ts">
import { mdiTrayArrowUp } from '@mdi/js'
import { ref } from 'vue'
import { download, Problem, type Query } from '@/api/client'
import { count, counted } from '@/format'

// Exports a whole list, or the tables of an answer, as a file.
const { path, query, rows, contacts } = defineProps<{
  path: string
  query: Query
  rows: number
  /** The rows can tell of people. */
  contacts?: boolean
}>()

const open = ref(false)
const without = ref(false)

const formats = [
  { name: 'csv', words: 'CSV', note: 'for any program' },
  { name: 'xlsx', words: 'XLSX', note: 'dates and numbers as such, highlights' },
  { name: 'ndjson', words: 'NDJSON', note: 'a row on each line' },
  { name: 'json', words: 'JSON', note: 'as a whole' },
  { name: 'parquet', words: 'Parquet', note: 'for millions' },
]
/** A worksheet holds no more. */
const mostOfAWorksheet = 1_048_575
const tooMany = (format: string) => format === 'xlsx' && rows > mostOfAWorksheet

const saving = ref('')
const failed = ref('')
async function save(format: string) {
  saving.value = format
  failed.value = ''
  try {
    const asked = { ...query, format, without_contacts: without.value ? 'true' : undefined }
    await download(path, asked, `${path.slice(1).replaceAll('/', '-')}.${format}`)
    open.value = false
  } catch (error) {
    failed.value = error instanceof Problem ? error.message : String(error)
  }
  saving.value = ''
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <v-btn v-bind="menu" :prepend-icon="mdiTrayArrowUp" aria-haspopup="dialog" data-test="export"
        ><slot>Export</slot></v-btn
      >
    </template>
    <v-card border role="dialog" aria-label="Export" :loading="saving !== ''">
      <v-card-text>
        <p>{{ counted(rows, 'row') }}, with the question.</p>
        <v-checkbox v-if="contacts" v-model="without" label="without contacts" data-test="without-contacts" />
        <ul>
          <li v-for="f in formats" :key="f.name">
            <v-btn
              :disabled="saving !== '' || tooMany(f.name)"
              :data-test="`export-${f.name}`"
              @click="save(f.name)"
              >{{ f.words }}</v-btn
            >
            <span class="muted">{{
              tooMany(f.name) ? `a worksheet holds ${count(mostOfAWorksheet)} rows` : f.note
            }}</span>
          </li>
        </ul>
        <p v-if="failed" class="amber" role="alert">{{ failed }}</p>
      </v-card-text>
    </v-card>
  </v-menu>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
}

li .v-btn {
  min-width: 6rem;
  justify-content: start;
}
</style>
