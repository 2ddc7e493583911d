<script setup lang="ts">
import { count } from '@/format'

// Turns the pages of a long list; nothing where one page holds all.
const { offset, size, all } = defineProps<{ offset: number; size: number; all: number }>()
const emit = defineEmits<{ turn: [offset: number] }>()
</script>

<template>
  <nav v-if="all > size" class="pages" aria-label="Pages">
    <button type="button" :disabled="offset === 0" @click="emit('turn', Math.max(0, offset - size))">
      ← Earlier
    </button>
    <span>{{ count(offset + 1) }} to {{ count(Math.min(offset + size, all)) }} of {{ count(all) }}</span>
    <button type="button" :disabled="offset + size >= all" @click="emit('turn', offset + size)">
      Later →
    </button>
  </nav>
</template>

<style scoped>
.pages {
  display: flex;
  gap: 20px;
  justify-content: center;
  margin-top: 16px;
}

.pages button:disabled {
  opacity: 0.4;
}
</style>
