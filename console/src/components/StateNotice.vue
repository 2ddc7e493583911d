<script setup lang="ts">
import type { Problem } from '@/api/client'

// What stands where an answer cannot: it is locked, or it failed.
defineProps<{ problem: Problem }>()
defineEmits<{ retry: [] }>()
</script>

<template>
  <v-card class="notice" border role="alert">
    <v-card-text v-if="problem.status === 401">
      <h1>This page is locked</h1>
      <p>
        The command <code>prairie-dusk access</code> prints an address. Open it here within 10 minutes: it
        lets this browser in, once.
      </p>
    </v-card-text>
    <v-card-text v-else>
      <h1>{{ problem.status === 422 ? 'That cannot be asked' : 'No answer' }}</h1>
      <p>{{ problem.message }}</p>
      <p v-if="problem.passing" class="muted">It is asked again every two seconds.</p>
    </v-card-text>
    <v-card-actions v-if="problem.status !== 401">
      <v-btn @click="$emit('retry')">Ask again</v-btn>
    </v-card-actions>
  </v-card>
</template>

<style scoped>
.notice {
  max-width: 640px;
  margin-bottom: 20px;
}

h1 {
  font-size: 1.25rem;
  margin-bottom: 8px;
}
</style>
