<script setup lang="ts">
import { computed } from 'vue'
import type { Took, TookPart } from '@/api/client'
import { count, decimal, keyName, length } from '@/format'
import { ordersBehind, type Question } from '@/question'

// The statistics by group, longest first; each number of orders opens them.
const { answer, part, question } = defineProps<{ answer: Took; part: TookPart; question: Question }>()

const left = computed(() =>
  part.total.reconciliation.map((r, i) => ({ ...r, i })).filter((r) => r.i > 0 && r.orders > 0),
)
const labels = computed(() => (answer.by.length > 0 ? answer.by : ['orders']))
/** How many columns follow those of the lengths. */
const beside = computed(() => left.value.length + (part.total.holidays_unknown ? 1 : 0))
const groups = computed(() => part.groups)

const behind = (keys: readonly string[], state?: string) => ordersBehind(question, { state, group: keys })
const unknown = (keys: readonly string[]) => ordersBehind(question, { note: 'holidays-unknown', group: keys })
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Lengths by group">
    <table class="plain" data-test="groups">
      <thead>
        <tr>
          <th :colspan="labels.length + 2" />
          <th class="heading" colspan="5" scope="colgroup" data-test="heading">{{ answer.heading }}</th>
          <th v-if="beside > 0" :colspan="beside" />
        </tr>
        <tr>
          <th v-for="label in labels" :key="label" scope="col">{{ label }}</th>
          <th class="number" scope="col">asked</th>
          <th class="number" scope="col">n</th>
          <th class="number" scope="col">mean</th>
          <th class="number" scope="col">median</th>
          <th class="number" scope="col">p90</th>
          <th class="number" scope="col">min</th>
          <th class="number" scope="col">max</th>
          <th v-for="r in left" :key="r.state" class="number" scope="col">{{ r.label }}</th>
          <th v-if="part.total.holidays_unknown" class="number" scope="col">holidays unknown</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in groups" :key="JSON.stringify(g.keys)">
          <td v-for="(key, i) in g.keys" :key="i">{{ keyName(key) }}</td>
          <td class="number">
            <router-link :to="behind(g.keys)">{{ count(g.asked) }}</router-link>
          </td>
          <td class="number">
            <router-link :to="behind(g.keys, 'counted')">{{ count(g.n) }}</router-link>
          </td>
          <td class="number">{{ decimal(g.mean, 2) }}</td>
          <td class="number">{{ decimal(g.median, 1) }}</td>
          <td class="number">{{ decimal(g.p90, 1) }}</td>
          <td class="number">{{ length(g.min) }}</td>
          <td class="number">{{ length(g.max) }}</td>
          <td v-for="r in left" :key="r.state" class="number">
            <router-link v-if="g.reconciliation[r.i]?.orders" :to="behind(g.keys, r.state)">{{
              count(g.reconciliation[r.i]!.orders)
            }}</router-link>
            <span v-else class="muted">0</span>
          </td>
          <td v-if="part.total.holidays_unknown" class="number">
            <router-link v-if="g.holidays_unknown" :to="unknown(g.keys)">{{
              count(g.holidays_unknown)
            }}</router-link>
            <span v-else class="muted">0</span>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td v-for="label in labels" :key="label">all</td>
          <td class="number">
            <router-link :to="behind([])">{{ count(part.total.asked) }}</router-link>
          </td>
          <td class="number">
            <router-link :to="behind([], 'counted')">{{ count(part.total.n) }}</router-link>
          </td>
          <td class="number">{{ decimal(part.total.mean, 2) }}</td>
          <td class="number">{{ decimal(part.total.median, 1) }}</td>
          <td class="number">{{ decimal(part.total.p90, 1) }}</td>
          <td class="number">{{ length(part.total.min) }}</td>
          <td class="number">{{ length(part.total.max) }}</td>
          <td v-for="r in left" :key="r.state" class="number">
            <router-link :to="behind([], r.state)">{{ count(r.orders) }}</router-link>
          </td>
          <td v-if="part.total.holidays_unknown" class="number">
            <router-link :to="unknown([])">{{ count(part.total.holidays_unknown) }}</router-link>
          </td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
.heading {
  text-align: right !important;
  border-bottom: 1px solid rgb(var(--v-theme-line)) !important;
}

thead tr:first-child th {
  border-bottom-color: transparent;
  padding-bottom: 0.2rem;
}
</style>
