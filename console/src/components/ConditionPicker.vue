<script setup lang="ts">
import { mdiFilterPlusOutline } from '@mdi/js'
import { computed, inject, reactive, ref, watch } from 'vue'
import { useAnswer } from '@/composables/useAnswer'
import type { Values } from '@/api/client'
import { comparisonsOf, conditionOf, joined, type Kind } from '@/condition'
import { withWeekday } from '@/format'
import { BOOK } from '@/keys'

// The condition that picks the orders: picked part by part, or written. What is picked becomes text, which can be read
// and changed before it is asked.
const { text } = defineProps<{ text: string }>()
const emit = defineEmits<{ pick: [text: string] }>()

const book = inject(BOOK)
const open = ref(false)
const written = ref('')
watch(open, (isOpen) => isOpen && (written.value = text))

/** What can be asked about: fields, milestones, the value, and how long each usual leg has taken so far. */
const subjects = computed<{ name: string; words: string; kind: Kind }[]>(() => [
  ...(book?.value?.fields ?? []).map((f) => ({ name: f.name, words: f.name, kind: 'text' as const })),
  ...(book?.value?.milestones ?? []).map((m) => ({
    name: m.name,
    words: `${m.name} day`,
    kind: 'day' as const,
  })),
  { name: 'value', words: 'value', kind: 'number' },
  { name: 'working_days(ordered, shipped)', words: 'working days from ordered to shipped', kind: 'number' },
  {
    name: 'working_days_so_far(ordered, shipped)',
    words: 'working days from ordered to shipped, so far',
    kind: 'number',
  },
])

const picked = reactive({ name: '', comparison: '', value: '' })
const subject = computed(() => subjects.value.find((s) => s.name === picked.name))
const comparisons = computed(() => comparisonsOf(subject.value?.kind ?? 'text'))
const comparison = computed(() => comparisons.value.find((c) => c.words === picked.comparison))
watch(
  () => picked.name,
  () => {
    picked.comparison = comparisons.value[0]?.words ?? ''
    picked.value = ''
  },
)

/** Values to pick from, as far as they are typed. */
const { answer: values } = useAnswer<Values>(() =>
  open.value && subject.value?.kind === 'text'
    ? { path: `/fields/${encodeURIComponent(picked.name)}/values`, query: { like: picked.value, limit: 20 } }
    : undefined,
)

const part = computed(() =>
  subject.value && comparison.value
    ? conditionOf(subject.value, comparison.value, picked.value.trim())
    : undefined,
)
const isDay = computed(() => /^\d{4}-\d\d-\d\d$/.test(picked.value) && subject.value?.kind === 'day')

function add(by: '&&' | '||') {
  if (part.value) written.value = joined(written.value.trim(), by, part.value)
}

function ask() {
  open.value = false
  emit('pick', written.value.trim())
}
</script>

<template>
  <v-menu v-model="open" :transition="false" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button
        v-bind="menu"
        type="button"
        :class="text ? 'word' : 'more'"
        :aria-label="text ? undefined : 'only orders that meet a condition'"
        :title="text ? undefined : 'only orders that meet a condition'"
        data-test="pick-where"
      >
        <template v-if="text">{{ text }}</template>
        <v-icon v-else :icon="mdiFilterPlusOutline" size="20" />
      </button>
    </template>
    <form class="panel" data-test="condition" @submit.prevent="ask">
      <div class="picks">
        <select v-model="picked.name" aria-label="What to ask about" data-test="subject">
          <option value="" disabled>what</option>
          <option v-for="s in subjects" :key="s.name" :value="s.name">{{ s.words }}</option>
        </select>
        <select v-model="picked.comparison" aria-label="Comparison" data-test="comparison-word">
          <option v-for="c in comparisons" :key="c.words">{{ c.words }}</option>
        </select>
        <input
          v-if="comparison?.takesValue"
          v-model="picked.value"
          list="condition-values"
          :placeholder="subject?.kind === 'day' ? '2026-07-06' : ''"
          aria-label="Value"
          data-test="condition-value"
          @keydown.enter.prevent="add('&&')"
        />
        <datalist id="condition-values">
          <option v-for="v in values?.values ?? []" :key="v" :value="v" />
        </datalist>
        <span v-if="isDay" class="muted">{{ withWeekday(picked.value) }}</span>
        <button type="button" class="link" :disabled="!part" data-test="add-and" @click="add('&&')">
          {{ written ? 'and' : 'add' }}
        </button>
        <button
          v-if="written"
          type="button"
          class="link"
          :disabled="!part"
          data-test="add-or"
          @click="add('||')"
        >
          or
        </button>
      </div>
      <label class="muted"
        >Condition, in CEL
        <textarea
          v-model="written"
          rows="3"
          maxlength="10000"
          spellcheck="false"
          placeholder='site == "Galway" &amp;&amp; paid == null'
          data-test="condition-text"
          @keydown.ctrl.enter.prevent="ask"
        />
      </label>
      <div class="buttons">
        <button type="submit" class="save" data-test="ask-where">Ask</button>
        <button
          v-if="text"
          type="button"
          class="link"
          data-test="clear-where"
          @click="((written = ''), ask())"
        >
          All orders
        </button>
      </div>
    </form>
  </v-menu>
</template>

<style scoped>
.word {
  color: rgb(var(--v-theme-secondary));
  font: inherit;
  font-weight: 650;
  text-decoration: underline dotted 2px;
  text-underline-offset: 5px;
  text-align: left;
  overflow-wrap: anywhere;
}

.more {
  margin-left: 8px;
  color: rgb(var(--v-theme-secondary));
}

form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
  width: min(560px, calc(100vw - 32px));
  padding: 16px;
  font-size: 0.9rem;
}

.picks {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
}

select,
input,
textarea {
  padding: 5px 8px;
  font: inherit;
  color: rgb(var(--v-theme-on-surface));
  background: rgb(var(--v-theme-background));
  border: 1px solid rgb(var(--v-theme-line));
  border-radius: 6px;
  max-width: 100%;
}

input {
  width: 150px;
}

textarea {
  display: block;
  width: 100%;
  margin-top: 4px;
  font-family: ui-monospace, monospace;
}

.buttons {
  display: flex;
  gap: 16px;
  align-items: center;
}

.save {
  color: rgb(var(--v-theme-surface));
  background: rgb(var(--v-theme-primary));
  padding: 5px 14px;
  border-radius: 6px;
}

.link {
  color: rgb(var(--v-theme-primary));
  text-decoration: underline;
}

.link:disabled {
  opacity: 0.5;
}
</style>
