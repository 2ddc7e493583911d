<script setup lang="ts">
import { computed } from 'vue'
import { askedBy } from '@/api/expected'
import type { Order } from '@/api/client'
import { useAnswer } from '@/composables/useAnswer'
import DayStrip from './DayStrip.vue'
import SideSheet from './SideSheet.vue'
import StateNotice from './StateNotice.vue'

// An order at the side, its length day by day: both ways one above the other, where there are two.
const { number, first, second } = defineProps<{ number: string; first: string; second: string }>()
const emit = defineEmits<{ close: [] }>()

/** The words of a question that say how the length of an order is counted. */
const words = ['from', 'to', 'in', 'count', 'calendar', 'cut_off', 'what_if']
const of = (question: string) => () => {
  const asked = askedBy(question)
  if (!asked) return undefined
  return {
    path: `/orders/${encodeURIComponent(number)}`,
    query: Object.fromEntries(words.map((word) => [word, asked.query[word]])),
  }
}
const one = useAnswer<Order>(of(first))
const other = useAnswer<Order>(of(second))
const ways = computed(() => [one.answer.value, other.answer.value].filter((o) => o !== undefined))
</script>

<template>
  <SideSheet :title="`Order ${number}`" @close="emit('close')">
    <StateNotice v-if="one.problem.value" :problem="one.problem.value" @retry="one.retry" />
    <section v-for="(o, i) in ways" :key="i" data-test="way">
      <h3>
        {{ o.leg }}: <b>{{ o.words }}</b>
      </h3>
      <template v-if="o.strip.length > 0">
        <DayStrip :days="o.strip" />
        <p>{{ o.sum_line }}</p>
      </template>
    </section>
    <p>
      <router-link :to="{ path: '/orders', query: { order: number } }">All of this order</router-link>
    </p>
  </SideSheet>
</template>
