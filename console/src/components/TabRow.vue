<script setup lang="ts" generic="Name extends string">
// What a page can show, one at a time.
const { tabs, shown } = defineProps<{ tabs: Readonly<Record<Name, string>>; shown: Name }>()
const emit = defineEmits<{ show: [name: Name] }>()
const names = Object.keys(tabs) as Name[]
</script>

<template>
  <span class="tabs" role="group" aria-label="What to show">
    <button
      v-for="name in names"
      :key="name"
      type="button"
      :aria-pressed="name === shown"
      :data-test="`tab-${name}`"
      @click="emit('show', name)"
    >
      {{ tabs[name] }}
    </button>
  </span>
</template>

<style scoped>
.tabs {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
}

button {
  color: rgb(var(--v-theme-muted));
  padding-bottom: 2px;
  border-bottom: 2px solid transparent;
}

button[aria-pressed='true'] {
  color: rgb(var(--v-theme-on-background));
  font-weight: 600;
  border-bottom-color: rgb(var(--v-theme-secondary));
}
</style>
