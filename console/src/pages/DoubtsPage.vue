<script setup lang="ts">
import type { Doubts } from '@/api/client'
import StateNotice from '@/components/StateNotice.vue'
import { useAnswer } from '@/composables/useAnswer'
import { count } from '@/format'
import { ordersBehind } from '@/question'

// What looks wrong in the records: each with its orders and what to do, and how far each milestone goes.
const { answer, problem, loading, retry } = useAnswer<Doubts>({ path: '/doubts', query: {} })
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="answer">
      <h1 data-test="sentence">{{ answer.sentence }}</h1>
      <p v-if="answer.doubts.length === 0" class="panel empty">Nothing looks wrong.</p>
      <div v-else class="scroll panel" tabindex="0" role="region" aria-label="Doubts">
        <table class="plain" data-test="doubts">
          <thead>
            <tr>
              <th class="number" scope="col">count</th>
              <th scope="col">what</th>
              <th scope="col">what follows, and what to do</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="d in answer.doubts" :key="d.code">
              <td class="number">
                <router-link
                  v-if="d.of_orders"
                  :to="ordersBehind({}, { doubt: d.code })"
                  :data-test="`doubt-${d.code}`"
                  >{{ count(d.count) }}</router-link
                >
                <template v-else>{{ count(d.count) }}</template>
              </td>
              <td class="wraps">
                {{ d.of_orders ? 'orders: ' : '' }}{{ d.title }}
                <div v-if="d.examples.length > 0" class="muted">
                  {{ d.examples.join('; ') }}{{ d.count > d.examples.length ? '; …' : '' }}
                </div>
              </td>
              <td class="wraps muted">{{ d.advice }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <h2>How far each milestone is recorded</h2>
      <div class="scroll panel" tabindex="0" role="region" aria-label="Milestones">
        <table class="plain" data-test="milestones">
          <thead>
            <tr>
              <th scope="col">milestone</th>
              <th scope="col">is a</th>
              <th class="number" scope="col">orders with it</th>
              <th class="number" scope="col">without</th>
              <th class="number" scope="col">after the data date</th>
              <th scope="col">earliest</th>
              <th scope="col">latest</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="m in answer.milestones" :key="m.name">
              <td>{{ m.name }}</td>
              <td>{{ m.plan ? 'plan' : 'fact' }}</td>
              <td class="number">{{ count(m.present) }}</td>
              <td class="number">{{ count(m.missing) }}</td>
              <td class="number">{{ count(m.ahead) }}</td>
              <td>{{ m.earliest }}</td>
              <td>{{ m.latest }}</td>
            </tr>
          </tbody>
        </table>
      </div>
    </template>
    <p v-else class="muted">Looking …</p>
  </div>
</template>

<style scoped>
.wraps {
  white-space: normal !important;
  min-width: 14rem;
  max-width: 30rem;
}

td {
  vertical-align: top;
}

.empty {
  padding: 28px;
}
</style>
