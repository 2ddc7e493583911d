<script setup lang="ts">
import { mdiChevronLeft, mdiChevronRight } from '@mdi/js'
import { count } from '@/format'

// Turns the pages of a long list; nothing where one page holds all.
const { offset, size, all } = defineProps<{ offset: number; size: number; all: number }>()
const emit = defineEmits<{ turn: [offset: number] }>()
</script>

<template>
  <nav v-if="all > size" class="pages" aria-label="Pages of the list">
    <v-btn
      :prepend-icon="mdiChevronLeft"
      :disabled="offset === 0"
      @click="emit('turn', Math.max(0, offset - size))"
      >Earlier</v-btn
    >
    <span>{{ count(offset + 1) }} to {{ count(Math.min(offset + size, all)) }} of {{ count(all) }}</span>
    <v-btn
      :append-icon="mdiChevronRight"
      :disabled="offset + size >= all"
      @click="emit('turn', offset + size)"
      >Later</v-btn
    >
  </nav>
</template>

<style scoped>
.pages {
  display: flex;
  gap: 12px;
  align-items: center;
  justify-content: center;
  margin-top: 16px;
}
</style>
