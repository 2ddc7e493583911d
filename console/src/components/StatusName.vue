<script setup lang="ts">
import { computed } from 'vue'
import { useTheme } from 'vuetify'
import type { Status } from '@/api/client'
import { dark, light, statusColour } from '@/theme'

// A status beside its colour.
const { name, statuses } = defineProps<{ name: string; statuses: readonly Status[] }>()

const theme = useTheme()
const colour = computed(() => {
  const tokens = theme.global.current.value.dark ? dark : light
  const place = statuses.findIndex((s) => s.name === name)
  return place < 0 ? tokens.line : statusColour(statuses[place]?.colour, place, tokens)
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
