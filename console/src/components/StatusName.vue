<script setup lang="ts">
import { computed } from 'vue'
import type { Status } from '@/api/client'
import { useTokens } from '@/composables/useTokens'
import { statusColour } from '@/theme'

// A status beside its colour.
const { name, statuses } = defineProps<{ name: string; statuses: readonly Status[] }>()

const tokens = useTokens()
const colour = computed(() => {
  const place = statuses.findIndex((s) => s.name === name)
  return place < 0 ? tokens.value.line : statusColour(statuses[place]?.colour, place, tokens.value)
})
</script>

<template>
  <span class="status"><i :style="{ background: colour }" />{{ name }}</span>
</template>

<style scoped>
.status {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}

i {
  width: 10px;
  height: 10px;
  border-radius: 3px;
  flex: none;
}
</style>
