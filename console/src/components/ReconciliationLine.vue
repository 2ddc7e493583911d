<script setup lang="ts">
import { computed } from 'vue'
import type { TookPart } from '@/api/client'
import { count } from '@/format'
import { ordersBehind, type Question } from '@/question'

// The lines that add up: what became of the orders asked about, and what the period makes of all in the book.
// Each number opens the orders behind it.
const { part, question } = defineProps<{ part: TookPart; question: Question }>()

/** Counted stands always; a kind without orders is folded. */
const shown = computed(() => part.total.reconciliation.filter((r, i) => i === 0 || r.orders > 0))
const noun = (orders: number) => (orders === 1 ? 'order' : 'orders')
</script>

<template>
  <p class="line" data-test="reconciliation">
    <router-link :to="ordersBehind(question, {})">{{ count(part.total.asked) }}</router-link>
    {{ noun(part.total.asked) }} asked about
    <template v-for="(r, i) in shown" :key="r.state">
      {{ i === 0 ? ' = ' : ' + '
      }}<router-link :to="ordersBehind(question, { state: r.state })">{{ count(r.orders) }}</router-link>
      {{ r.label }}
    </template>
  </p>
  <p v-if="part.placement_parts.length > 0" class="muted" data-test="placement">
    {{ count(part.placement.in_book) }} {{ noun(part.placement.in_book) }} in the book
    <template v-for="(r, i) in part.placement_parts" :key="r.state">
      {{ i === 0 ? ' = ' : ' + '
      }}<router-link :to="ordersBehind(question, { placed: r.state })">{{ count(r.orders) }}</router-link>
      {{ r.label }}
    </template>
  </p>
</template>

<style scoped>
.line {
  font-size: 1rem;
  line-height: 1.7;
}
</style>
