<script setup lang="ts">
import { computed } from 'vue'
import type { Group } from '@/api/client'
import { count } from '@/format'
import { parameters, type Question } from '@/question'

// The line that adds up to the orders asked about; each number opens the orders behind it.
const { group, question } = defineProps<{ group: Group; question: Question }>()

/** Counted stands always; a kind without orders is folded. */
const shown = computed(() => group.reconciliation.filter((r, i) => i === 0 || r.orders > 0))

function behind(state?: string) {
  return { path: '/orders', query: { ...parameters(question), state } }
}
</script>

<template>
  <p class="line" data-test="reconciliation">
    <router-link :to="behind()">{{ count(group.asked) }}</router-link> orders asked about
    <template v-for="(part, i) in shown" :key="part.state">
      {{ i === 0 ? ' = ' : ' + '
      }}<router-link :to="behind(part.state)">{{ count(part.orders) }}</router-link>
      {{ part.label }}
    </template>
  </p>
</template>

<style scoped>
.line {
  font-size: 1rem;
  line-height: 1.7;
}
</style>
