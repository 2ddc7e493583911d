<script setup lang="ts">
import { computed, inject, nextTick, ref, watch } from 'vue'
import type { Column } from '@/api/document'
import { columnsText } from '@/columns'
import { BOOK } from '@/keys'

// Adds columns to a list and takes them away: those that orders have, and whatever else can be written.
const { columns } = defineProps<{ columns: readonly Column[] }>()
const emit = defineEmits<{ pick: [text: string] }>()

const book = inject(BOOK)
const open = ref(false)
const typed = ref('')
const field = ref<HTMLInputElement>()
watch(open, async (isOpen) => {
  typed.value = ''
  if (!isOpen) return
  await nextTick()
  field.value?.focus()
})

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
  <v-menu v-model="open" :transition="false" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button" class="link" data-test="columns">Columns</button>
    </template>
    <div class="panel list">
      <input
        ref="field"
        v-model="typed"
        class="field"
        type="text"
        placeholder='Narrow, or write: paid == null as "Unpaid"'
        aria-label="Narrow the columns, or write one"
        data-test="type-column"
        @keydown.enter.prevent="add"
      />
      <div class="groups">
        <fieldset v-for="g in groups" :key="g.title">
          <legend>{{ g.title }}</legend>
          <label v-for="text in g.texts" :key="text">
            <input
              type="checkbox"
              :checked="shown(text)"
              :data-test="`show-${text}`"
              @change="toggle(text)"
            />
            {{ text }}
          </label>
        </fieldset>
        <p v-if="groups.length === 0" class="muted">
          Enter adds it as a column: a length such as weeks(ordered, delivered), a condition, or more.
        </p>
      </div>
    </div>
  </v-menu>
</template>

<style scoped>
.list {
  width: min(460px, calc(100vw - 32px));
  padding: 12px;
  font-size: 0.88rem;
}

.field {
  width: 100%;
}

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
  padding-bottom: 2px;
}

label {
  display: block;
  overflow-wrap: anywhere;
  padding: 2px 0;
}
</style>
