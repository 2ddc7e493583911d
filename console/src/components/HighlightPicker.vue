<script setup lang="ts">
import { mdiArrowUp, mdiClose, mdiMarker } from '@mdi/js'
import { ref } from 'vue'
import type { Column, Highlight } from '@/api/document'
import { highlightText, highlightWords, moved, styles } from '@/columns'
import ChoiceField from './ChoiceField.vue'
import ConditionPicker from './ConditionPicker.vue'

// Makes rows or cells stand out by condition. Of several highlights that hold the first counts, so that their order is shown.
const { highlights, columns } = defineProps<{
  highlights: readonly Highlight[]
  columns: readonly Column[]
}>()
const emit = defineEmits<{ pick: [highlights: string[]] }>()

const open = ref(false)
const style = ref('amber')
const on = ref('')
/** What there was before the last change. */
const before = ref<string[]>()

const texts = () => highlights.map((m) => m.text)

function change(next: string[]) {
  before.value = texts()
  emit('pick', next)
}

function add(where: string) {
  if (where) change([...texts(), highlightText(style.value, on.value, where)])
}

function undo() {
  const back = before.value
  before.value = undefined
  if (back) emit('pick', back)
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <v-btn v-bind="menu" :prepend-icon="mdiMarker" aria-haspopup="dialog" data-test="highlights"
        >Highlights</v-btn
      >
    </template>
    <v-card border width="560" max-width="calc(100vw - 32px)" role="dialog" aria-label="Highlights">
      <v-card-text class="list">
        <ol v-if="highlights.length > 0">
          <li v-for="(m, i) in highlights" :key="m.text">
            <span :class="['swatch', `highlight-${m.style}`]">{{ styles[m.style] }} {{ m.style }}</span>
            <span class="where">{{ highlightWords(m, columns) }}</span>
            <v-btn
              :icon="mdiArrowUp"
              size="small"
              :disabled="i === 0"
              :aria-label="`${m.text} before the one above`"
              @click="change(moved(texts(), i, i - 1))"
            />
            <v-btn
              :icon="mdiClose"
              size="small"
              :aria-label="`Without ${m.text}`"
              @click="change(texts().filter((_, j) => j !== i))"
            />
          </li>
        </ol>
        <p v-else class="muted">Nothing is highlighted. The first highlight that holds counts.</p>
        <div class="add">
          <ChoiceField
            v-model="on"
            label="Highlight"
            :choices="{ '': 'the row', ...Object.fromEntries(columns.map((c) => [c.code, c.heading])) }"
            data-test="highlight-on"
          />
          <ChoiceField
            v-model="style"
            label="in"
            :choices="
              Object.fromEntries(Object.entries(styles).map(([name, sign]) => [name, `${sign} ${name}`]))
            "
            data-test="highlight-style"
          />
          <span>where <ConditionPicker text="" words="a condition holds" @pick="add" /></span>
        </div>
        <v-btn v-if="before" data-test="undo-highlights" @click="undo">Undo</v-btn>
      </v-card-text>
    </v-card>
  </v-menu>
</template>

<style scoped>
.list {
  display: grid;
  gap: 12px;
  justify-items: start;
}

ol {
  list-style: none;
  padding: 0;
  width: 100%;
}

li,
.add {
  display: flex;
  gap: 10px;
  align-items: center;
  width: 100%;
}

.swatch {
  background: var(--highlight, transparent);
  padding: 1px 8px;
  border-radius: 6px;
  white-space: nowrap;
}

.where {
  flex: 1;
  overflow-wrap: anywhere;
}
</style>
