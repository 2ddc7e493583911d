<script setup lang="ts">
import { mdiFilterPlusOutline } from '@mdi/js'
import { defineAsyncComponent, ref } from 'vue'

// The condition that picks the orders, in a sentence; a menu holds its form.
const { text, words, fault } = defineProps<{
  text: string
  /** Stands where no condition is there yet, instead of a funnel. */
  words?: string
  /** It was refused. */
  fault?: boolean
}>()
const emit = defineEmits<{ pick: [text: string] }>()

const ConditionForm = defineAsyncComponent(() => import('./ConditionForm.vue'))
const open = ref(false)

function pick(condition: string) {
  open.value = false
  emit('pick', condition)
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button
        v-bind="menu"
        type="button"
        :class="[text || words ? 'word' : 'more', { fault }]"
        :aria-invalid="fault || undefined"
        :aria-label="text || words ? undefined : 'only orders that meet a condition'"
        :title="text || words ? undefined : 'only orders that meet a condition'"
        aria-haspopup="dialog"
        data-test="pick-where"
      >
        <template v-if="text || words">{{ text || words }}</template>
        <v-icon v-else :icon="mdiFilterPlusOutline" size="20" />
      </button>
    </template>
    <v-card border width="620" max-width="calc(100vw - 32px)" role="dialog" aria-label="Condition">
      <ConditionForm :text="text" @pick="pick" />
    </v-card>
  </v-menu>
</template>

<style scoped>
.word {
  color: rgb(var(--v-theme-secondary));
  font-weight: 650;
  text-decoration: underline dotted 2px;
  text-underline-offset: 5px;
  text-align: left;
  overflow-wrap: anywhere;
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
</style>
