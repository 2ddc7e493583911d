<script setup lang="ts" generic="Name extends string">
// What a page can show, one at a time.
const {
  tabs,
  shown,
  label = 'What to show',
  kind = 'tab',
} = defineProps<{
  tabs: Readonly<Partial<Record<Name, string>>>
  shown: Name
  label?: string
  /** The first word of the names by which tests know the tabs. */
  kind?: string
}>()
const emit = defineEmits<{ show: [name: Name] }>()
</script>

<template>
  <v-tabs :model-value="shown" class="tabs" :aria-label="label">
    <v-tab
      v-for="(words, name) in tabs"
      :key="name"
      :value="name"
      :data-test="`${kind}-${name}`"
      @click="emit('show', name as Name)"
      >{{ words }}</v-tab
    >
  </v-tabs>
</template>

<style scoped>
.tabs {
  flex: 1 0 100%;
}
</style>
