<script setup lang="ts">
import { mdiTableColumn } from '@mdi/js'
import { computed, inject, ref, watch } from 'vue'
import type { Column } from '@/api/document'
import { columnsText } from '@/columns'
import { BOOK } from '@/keys'

// Adds columns to a list and takes them away: those that orders have, and whatever else can be written.
const { columns } = defineProps<{ columns: readonly Column[] }>()
const emit = defineEmits<{ pick: [text: string] }>()

const book = inject(BOOK)
const open = ref(false)
const typed = ref('')
watch(open, () => (typed.value = ''))

/** How what a column is of reads above its columns. */
const titles: Record<string, string> = {
  order: 'Order',
  customer: 'Customer',
  site: 'Site',
  place: 'Place',
  milestones: 'Milestones',
  lengths: 'Lengths, finished or so far',
  lines: 'Lines',
  shipments: 'Shipments',
  payments: 'Payments',
}

const groups = computed(() => {
  const wanted = typed.value.trim().toLowerCase()
  const groups = new Map<string, string[]>()
  for (const c of book?.value?.columns ?? []) {
    if (!c.text.toLowerCase().includes(wanted)) continue
    groups.set(c.of, [...(groups.get(c.of) ?? []), c.text])
  }
  return [...groups].map(([of, texts]) => ({ title: titles[of] ?? of, texts }))
})

const shown = (text: string) => columns.some((c) => c.code === text)

function toggle(text: string) {
  if (!shown(text)) emit('pick', `${columnsText(columns)}, ${text}`)
  else if (columns.length > 1) emit('pick', columnsText(columns.filter((c) => c.code !== text)))
}

/** What is typed is a column of its own, where no other is meant. */
function add() {
  const text = typed.value.trim()
  const only = groups.value.flatMap((g) => g.texts)
  if (text === '') return
  open.value = false
  emit('pick', `${columnsText(columns)}, ${only.length === 1 ? only[0] : text}`)
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <v-btn v-bind="menu" :prepend-icon="mdiTableColumn" aria-haspopup="dialog" data-test="columns"
        >Columns</v-btn
      >
    </template>
    <v-card border width="480" max-width="calc(100vw - 32px)" role="dialog" aria-label="Columns">
      <v-card-text>
        <v-text-field
          v-model="typed"
          autofocus
          placeholder='Narrow, or write: paid == null as "Unpaid"'
          aria-label="Narrow the columns, or write one"
          data-test="type-column"
          @keydown.enter.prevent="add"
        />
        <div class="groups" tabindex="0" role="group" aria-label="Columns to show">
          <fieldset v-for="g in groups" :key="g.title">
            <legend>{{ g.title }}</legend>
            <v-checkbox
              v-for="text in g.texts"
              :key="text"
              :model-value="shown(text)"
              :label="text"
              :data-test="`show-${text}`"
              @update:model-value="toggle(text)"
            />
          </fieldset>
          <p v-if="groups.length === 0" class="muted">
            Enter adds it as a column: a length such as weeks(ordered, delivered), a condition, or more.
          </p>
        </div>
      </v-card-text>
    </v-card>
  </v-menu>
</template>

<style scoped>
.groups {
  max-height: min(420px, 60vh);
  overflow-y: auto;
  margin-top: 10px;
}

fieldset {
  border: 0;
  padding: 0 0 10px;
  columns: 2;
}

legend {
  font-weight: 600;
}

fieldset .v-checkbox {
  break-inside: avoid;
}
</style>
