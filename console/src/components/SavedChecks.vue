<script setup lang="ts">
import { ref, shallowRef } from 'vue'
import { type Checks, remove, sendJSON } from '@/api/client'
import type { Document } from '@/api/document'
import { useAnswer } from '@/composables/useAnswer'
import AnswerParts from './AnswerParts.vue'
import StateNotice from './StateNotice.vue'

// The saved checks: what each expects, and whether all of them hold.
const round = ref(0)
const { answer, problem, retry } = useAnswer<Checks>(() => ({
  path: '/checks',
  query: {},
  round: round.value,
}))

const expected = (c: Checks['checks'][number]) =>
  c.orders
    ? `the orders of ${c.orders.name ?? 'a list'}`
    : c.table
      ? `the table of ${c.table.name ?? 'a file'}`
      : [c.number, ...(c.row ?? []), c.figure].filter(Boolean).join(' ')
const address = (c: Checks['checks'][number]) => ({
  question: c.question,
  kind: c.orders ? 'orders' : c.table ? 'table' : undefined,
  number: c.number,
  part: c.part,
  row: c.row?.join(', '),
})

const result = shallowRef<Document>()
const running = ref(false)
const failed = ref('')
async function runAll() {
  running.value = true
  failed.value = ''
  try {
    result.value = await sendJSON<Document>('POST', '/checks/run', {}, answer.value)
  } catch (error) {
    failed.value = error instanceof Error ? error.message : String(error)
  }
  running.value = false
}

async function drop(name: string) {
  await remove(`/checks/${encodeURIComponent(name)}`).catch(
    (error: unknown) => (failed.value = String(error)),
  )
  result.value = undefined
  round.value++
}
</script>

<template>
  <StateNotice v-if="problem" :problem="problem" @retry="retry" />
  <template v-else-if="answer && answer.checks.length > 0">
    <v-card border>
      <v-table density="compact" tabindex="0" role="region" aria-label="Saved checks" data-test="checks">
        <thead>
          <tr>
            <th scope="col">check</th>
            <th scope="col">question</th>
            <th scope="col">expected</th>
            <th scope="col"><span class="muted">change</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="c in answer.checks" :key="c.name">
            <th scope="row">
              <router-link :to="{ path: '/check', query: address(c) }">{{ c.name }}</router-link>
            </th>
            <td>{{ c.question }}</td>
            <td>{{ expected(c) }}</td>
            <td>
              <v-btn size="small" :data-test="`delete-check-${c.name}`" @click="drop(c.name)">Delete</v-btn>
            </td>
          </tr>
        </tbody>
      </v-table>
    </v-card>
    <p>
      <v-btn variant="flat" :loading="running" data-test="run-checks" @click="runAll">Run all</v-btn>
    </p>
    <p v-if="failed" class="amber" role="alert">{{ failed }}</p>
    <div v-if="result" aria-live="polite" data-test="checks-result">
      <p>{{ result.sentence.map((w) => w.text).join('') }}</p>
      <AnswerParts :document="result" label="Checks" />
    </div>
  </template>
  <p v-else-if="answer" class="muted">No check is saved yet.</p>
</template>
