<script setup lang="ts">
import type { Problem } from '@/api/client'

// What stands where an answer cannot: it is locked, or it failed.
defineProps<{ problem: Problem }>()
defineEmits<{ retry: [] }>()
</script>

<template>
  <div class="panel notice" role="alert">
    <template v-if="problem.status === 401">
      <h1>This page is locked</h1>
      <p>
        The command <code>prairie-dusk access</code> prints an address. Open it here within 10 minutes: it
        lets this browser in, once.
      </p>
    </template>
    <template v-else>
      <h1>{{ problem.status === 422 ? 'That cannot be asked' : 'No answer' }}</h1>
      <p>{{ problem.message }}</p>
      <button type="button" @click="$emit('retry')">Ask again</button>
    </template>
  </div>
</template>

<style scoped>
.notice {
  padding: 24px 28px;
  max-width: 640px;
}

h1 {
  font-size: 1.25rem;
  margin-bottom: 8px;
}

button {
  margin-top: 12px;
  text-decoration: underline;
  color: rgb(var(--v-theme-primary));
}
</style>
