<script setup lang="ts">
import { ref } from 'vue'
import { download, Problem, type Query } from '@/api/client'
import { count } from '@/format'

// Takes a whole list, or the table of an answer, away as a file.
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
  <v-menu v-model="open" :transition="false" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button" class="link" data-test="take-away"><slot>Take away</slot></button>
    </template>
    <div class="panel list">
      <p>All {{ count(rows) }} rows, with their sentence.</p>
      <label v-if="contacts"
        ><input v-model="without" type="checkbox" data-test="without-contacts" /> without contacts</label
      >
      <ul>
        <li v-for="f in formats" :key="f.name">
          <span v-if="tooMany(f.name)" class="muted"
            >{{ f.words }}: a worksheet holds {{ count(mostOfAWorksheet) }} rows</span
          >
          <button
            v-else
            type="button"
            class="link"
            :disabled="saving !== ''"
            :data-test="`take-${f.name}`"
            @click="save(f.name)"
          >
            {{ saving === f.name ? `${f.words} …` : f.words }}
          </button>
          <span v-if="!tooMany(f.name)" class="muted"> {{ f.note }}</span>
        </li>
      </ul>
      <p v-if="failed" class="amber" role="alert">{{ failed }}</p>
    </div>
  </v-menu>
</template>

<style scoped>
.list {
  padding: 14px 18px;
  font-size: 0.9rem;
  line-height: 1.9;
}

li .muted {
  margin-left: 10px;
}

ul {
  list-style: none;
  padding: 0;
}
</style>
