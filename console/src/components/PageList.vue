<script setup lang="ts">
import { useScope } from '@/composables/useScope'
import { pages } from '@/pages'

// The pages in their groups, in the drawer at the left.
const { narrow } = defineProps<{ narrow: boolean }>()
const groups = [undefined, 'Records', 'Answers', 'Saved'] as const
const scope = useScope()
</script>

<template>
  <template v-for="group in groups" :key="group ?? ''">
    <h2 v-if="group && !narrow" :id="`pages-${group}`">{{ group }}</h2>
    <ul :aria-labelledby="group && !narrow ? `pages-${group}` : undefined">
      <li v-for="page in pages.filter((p) => p.group === group)" :key="page.path">
        <v-list-item
          nav
          prepend-gap="14"
          density="compact"
          :to="{ path: page.path, query: scope(page) }"
          :title="page.name"
          :prepend-icon="page.icon"
        />
      </li>
    </ul>
  </template>
</template>

<style scoped>
h2 {
  margin: 14px 16px 2px;
  font-size: 0.75rem;
  font-weight: 500;
  color: rgb(var(--v-theme-muted));
}

ul {
  list-style: none;
  padding: 0 8px;
}

ul + ul {
  border-top: 1px solid rgb(var(--v-theme-line));
}
</style>
