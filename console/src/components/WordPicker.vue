<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { labelOf } from '@/question'

// A word of the question sentence that can be changed. Where there is much to choose from, typing narrows the
// list; where more is possible than a list can hold, what is typed can be taken as it stands.
const { slotName, text, icon, choices, names, chosen, example, note, fault } = defineProps<{
  slotName: string
  text: string
  /** Stands for the text, where no word of the sentence is changed but one is added. */
  icon?: string
  choices: readonly string[]
  /** How choices read, where that is not the word itself. */
  names?: Readonly<Record<string, string>>
  chosen?: string
  /** What can be typed besides the choices. */
  example?: string
  /** What has to be said about the choices, such as why one is missing. */
  note?: string
  /** It was refused. */
  fault?: boolean
}>()
const emit = defineEmits<{ pick: [word: string] }>()

const open = ref(false)
const typed = ref('')
const narrows = computed(() => example !== undefined || choices.length > 12)
const nameOf = (choice: string) => names?.[choice] ?? labelOf(choice)
const shown = computed(() => {
  const wanted = typed.value.trim().toLowerCase()
  const found = choices.filter((c) => c.includes(wanted) || nameOf(c).toLowerCase().includes(wanted))
  if (example !== undefined && wanted && !choices.includes(wanted)) found.push(typed.value.trim())
  return found
})

watch(open, () => (typed.value = ''))

function pick(word: string | undefined) {
  if (word === undefined) return
  open.value = false
  emit('pick', word)
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button
        v-bind="menu"
        type="button"
        :class="[icon ? 'more' : 'word', { fault }]"
        :aria-invalid="fault || undefined"
        :aria-label="icon ? text : undefined"
        aria-haspopup="dialog"
        :title="icon ? text : undefined"
        :data-test="`pick-${slotName}`"
      >
        <v-icon v-if="icon" :icon="icon" size="20" />
        <template v-else>{{ text }}</template>
      </button>
    </template>
    <v-card border min-width="240" role="dialog" :aria-label="`Choose: ${text}`">
      <v-text-field
        v-if="narrows"
        v-model="typed"
        autofocus
        class="ma"
        :placeholder="example ?? 'Type to narrow the list'"
        :aria-label="`Narrow the choices of ${slotName}`"
        :data-test="`type-${slotName}`"
        @keydown.enter.prevent="pick(shown[0])"
      />
      <v-list density="compact" max-height="400" role="listbox" :aria-label="`Choose ${slotName}`">
        <v-list-item
          v-for="choice in shown"
          :key="choice"
          role="option"
          :aria-selected="choice === chosen"
          :active="choice === chosen"
          :data-test="`choice-${choice}`"
          @click="pick(choice)"
        >
          {{ choices.includes(choice) ? nameOf(choice) : `Ask for ${choice}` }}
        </v-list-item>
        <v-list-item v-if="shown.length === 0" role="option" disabled>Nothing of this name</v-list-item>
      </v-list>
      <p v-if="note" class="note muted" :data-test="`note-on-${slotName}`">{{ note }}</p>
    </v-card>
  </v-menu>
</template>

<style scoped>
.word {
  color: rgb(var(--v-theme-secondary));
  font-weight: 650;
  letter-spacing: inherit;
  text-decoration: underline dotted 2px;
  text-underline-offset: 5px;
  text-align: left;
}

.fault {
  color: rgb(var(--v-theme-error));
  text-decoration-style: wavy;
}

.more {
  margin-left: 8px;
  min-width: 24px;
  min-height: 24px;
  color: rgb(var(--v-theme-secondary));
}

.ma {
  margin: 8px;
}

.note {
  max-width: 22rem;
  padding: 4px 16px 12px;
  font-size: 0.82rem;
}
</style>
