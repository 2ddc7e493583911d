<script setup lang="ts">
import { useAddress } from '@/composables/useAddress'

// The period and the condition in force, which stay as one goes from page to page, until they are cleared here.
const { text, to } = useAddress()
const words = { period: 'Period', where: 'Only' } as const
</script>

<template>
  <template v-for="(name, word) in words" :key="word">
    <v-chip
      v-if="text(word)"
      class="chip"
      closable
      size="small"
      :close-label="`Clear: ${name} ${text(word)}`"
      :data-test="`chip-${word}`"
      @click:close="to({ [word]: undefined })"
      ><span class="in-force">{{ name }} {{ text(word) }}</span></v-chip
    >
  </template>
</template>

<style scoped>
.in-force {
  max-width: 20rem;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
