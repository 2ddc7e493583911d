<script setup lang="ts">
import { ref } from 'vue'
import { expectedFile } from '@/api/expected'
import { type Check, type Checks, Problem, sendJSON } from '@/api/client'
import ChoiceField from './ChoiceField.vue'

// What is expected of an answer: a figure, or orders or a table, pasted or as a file.
const { kind, run, checked, done } = defineProps<{
  kind: 'figure' | 'orders' | 'table'
  run: (expected: Partial<Check>) => Promise<void>
  /** What was checked last. */
  checked?: Check
  done: boolean
}>()

const figure = ref('')
const pasted = ref('')
const file = ref<File>()
const column = ref('')
const decimals = ref<'' | 'point' | 'comma'>('')
/** What the file leaves open, by the word in which it is said. */
const asked = ref('')
const wrong = ref('')
const running = ref(false)

async function check() {
  running.value = true
  wrong.value = ''
  try {
    await run(await expected())
  } catch (error) {
    if (error instanceof Problem && error.parameter) asked.value = error.parameter
    wrong.value = error instanceof Error ? error.message : String(error)
  }
  running.value = false
}

async function expected(): Promise<Partial<Check>> {
  const more = { decimals: decimals.value || undefined, column: column.value || undefined }
  if (kind === 'figure') return { figure: figure.value, ...more }
  const content = file.value ?? new Blob([pasted.value])
  return { [kind]: await expectedFile(content, file.value?.name ?? 'the text'), ...more }
}

const name = ref('')
const saved = ref('')
async function save() {
  try {
    await sendJSON<Checks>('PUT', `/checks/${encodeURIComponent(name.value.trim())}`, {}, checked)
    saved.value = name.value.trim()
  } catch (error) {
    wrong.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <v-form @submit.prevent="check">
    <div class="expected">
      <v-text-field
        v-if="kind === 'figure'"
        v-model="figure"
        label="Expected"
        placeholder="1,245"
        data-test="figure"
      />
      <template v-else>
        <v-textarea
          v-model="pasted"
          :label="kind === 'orders' ? 'Order numbers, pasted' : 'Table, pasted with its header'"
          rows="4"
          :disabled="!!file"
          data-test="pasted"
        />
        <v-file-input v-model="file" label="or a file" data-test="expected-file" />
      </template>
      <v-text-field
        v-if="kind === 'orders' && (column || asked === 'column')"
        v-model="column"
        label="Column of the order numbers"
        data-test="column"
      />
      <ChoiceField
        v-if="decimals || asked === 'decimals'"
        v-model="decimals"
        label="Decimals"
        :choices="{ '': 'as the numbers tell', point: 'after a point', comma: 'after a comma' }"
      />
    </div>
    <p v-if="wrong" class="amber" role="alert">{{ wrong }}</p>
    <div class="actions">
      <v-btn
        type="submit"
        variant="flat"
        :loading="running"
        :disabled="kind === 'figure' ? !figure.trim() : !file && !pasted.trim()"
        data-test="run-check"
        >Check</v-btn
      >
      <template v-if="done">
        <v-text-field v-model="name" label="Save this check as" maxlength="100" data-test="check-name" />
        <v-btn :disabled="!name.trim()" data-test="save-check" @click="save">Save</v-btn>
        <span v-if="saved" role="status"
          >Saved as <router-link to="/check">{{ saved }}</router-link>.</span
        >
      </template>
    </div>
  </v-form>
</template>

<style scoped>
.expected,
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: center;
  margin-bottom: 8px;
}

.expected > * {
  flex: 0 1 300px;
}

.expected > .v-textarea {
  flex-basis: 612px;
}

.actions > .v-text-field {
  flex: 0 1 260px;
}
</style>
