<script setup lang="ts">
import type { RouteLocationRaw } from 'vue-router'
import type { Group } from '@/api/client'
import { count } from '@/format'

// The number of lengths of a group, which opens them; few are marked.
const { group, few, to } = defineProps<{ group: Group; few: number; to: RouteLocationRaw }>()
</script>

<template>
  <router-link :to="to">{{ count(group.n) }}</router-link><abbr
    v-if="group.small"
    class="amber"
    :title="`fewer than ${few} lengths: percentiles say little`"
    data-test="few"
    >†</abbr
  >
</template>

<style scoped>
abbr {
  text-decoration: none;
}
</style>
