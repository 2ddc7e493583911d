<script setup lang="ts">
import { ref } from 'vue'
import type { Column, Highlight } from '@/api/document'
import { highlightText, highlightWords, moved, styles } from '@/columns'
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
  <v-menu v-model="open" :transition="false" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button" class="link" data-test="highlights">Highlights</button>
    </template>
    <div class="panel list">
      <ol v-if="highlights.length > 0">
        <li v-for="(m, i) in highlights" :key="m.text">
          <span :class="['swatch', `highlight-${m.style}`]">{{ styles[m.style] }} {{ m.style }}</span>
          <span class="where">{{ highlightWords(m, columns) }}</span>
          <button
            type="button"
            class="link"
            :disabled="i === 0"
            :aria-label="`${m.text} before the one above`"
            @click="change(moved(texts(), i, i - 1))"
          >
            ↑
          </button>
          <button
            type="button"
            class="link"
            :aria-label="`Without ${m.text}`"
            @click="change(texts().filter((_, j) => j !== i))"
          >
            ×
          </button>
        </li>
      </ol>
      <p v-else class="muted">Nothing is highlighted. The first highlight that holds counts.</p>
      <p class="add">
        Highlight
        <select v-model="on" class="field" aria-label="What is highlighted" data-test="highlight-on">
          <option value="">the row</option>
          <option v-for="c in columns" :key="c.code" :value="c.code">{{ c.heading }}</option>
        </select>
        <select v-model="style" class="field" aria-label="How it is highlighted" data-test="highlight-style">
          <option v-for="(sign, name) in styles" :key="name" :value="name">{{ sign }} {{ name }}</option>
        </select>
        where <ConditionPicker text="" words="a condition holds" @pick="add" />
      </p>
      <button v-if="before" type="button" class="link" data-test="undo-highlights" @click="undo">Undo</button>
    </div>
  </v-menu>
</template>

<style scoped>
.list {
  display: grid;
  gap: 12px;
  width: min(520px, calc(100vw - 32px));
  padding: 14px 16px;
  font-size: 0.88rem;
  justify-items: start;
}

ol {
  list-style: none;
  padding: 0;
  width: 100%;
}

li {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 3px 0;
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

.add {
  line-height: 2.2;
}
</style>
