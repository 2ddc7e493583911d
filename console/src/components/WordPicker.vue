<script setup lang="ts">
import { labelOf } from '@/question'

// A word of the question sentence that can be changed.
defineProps<{ slotName: string; text: string; choices: readonly string[]; chosen?: string }>()
defineEmits<{ pick: [word: string] }>()
</script>

<template>
  <v-menu :transition="false">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button" class="word" :data-test="`pick-${slotName}`">{{ text }}</button>
    </template>
    <v-list density="compact" max-height="420" :aria-label="`Choose ${slotName}`">
      <v-list-item
        v-for="choice in choices"
        :key="choice"
        :active="choice === chosen"
        :data-test="`choice-${choice}`"
        @click="$emit('pick', choice)"
      >
        {{ labelOf(choice) || 'nothing' }}
      </v-list-item>
    </v-list>
  </v-menu>
</template>

<style scoped>
.word {
  color: rgb(var(--v-theme-secondary));
  font: inherit;
  font-weight: 650;
  letter-spacing: inherit;
  text-decoration: underline dotted 2px;
  text-underline-offset: 5px;
  text-align: left;
}
</style>
