<script setup lang="ts">
import type { RouteLocationRaw } from 'vue-router'
import type { TookPart } from '@/api/client'
import { count } from '@/format'
import { ordersBehind, type Question } from '@/question'

// The working: what each step leaves of the orders in the book, and what it leaves out; each number opens its orders.
const { part, question } = defineProps<{ part: TookPart; question: Question }>()

/** The orders that are left after a step. */
function left(code: string): RouteLocationRaw {
  switch (code) {
    case 'book':
      return ordersBehind({ ...question, period: undefined, where: undefined }, {})
    case 'period':
      return ordersBehind({ ...question, where: undefined }, {})
    case 'condition':
      return ordersBehind(question, {})
  }
  return ordersBehind(question, { state: code })
}

function leftOut(code: string, state: string): RouteLocationRaw {
  const placed = code === 'period' || code === 'condition'
  return ordersBehind(question, placed ? { placed: state } : { state })
}
</script>

<template>
  <details class="panel working" data-test="working">
    <summary>The working, step by step</summary>
    <ol>
      <li v-for="step in part.steps" :key="step.code">
        <router-link :to="left(step.code)" class="number" :data-test="`step-${step.code}`">{{
          count(step.orders)
        }}</router-link>
        {{ step.label }}
        <span v-if="step.left.length > 0" class="muted">
          (left out:
          <template v-for="(r, i) in step.left" :key="r.state"
            >{{ i > 0 ? ', ' : ''
            }}<router-link :to="leftOut(step.code, r.state)">{{ count(r.orders) }}</router-link>
            {{ r.label }}</template
          >)
        </span>
      </li>
    </ol>
  </details>
</template>

<style scoped>
.working {
  margin-top: 16px;
  padding: 10px 16px;
  font-size: 0.92rem;
}

summary {
  cursor: pointer;
}

ol {
  padding: 8px 0 4px 1.4em;
  line-height: 1.8;
}

.number {
  font-weight: 600;
}
</style>
