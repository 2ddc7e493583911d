<script setup lang="ts">
import { computed } from 'vue'
import type { Group, Took, TookPart } from '@/api/client'
import { count, decimal, keysOf, length } from '@/format'
import { ordersBehind, type Question } from '@/question'

// What orders that still run add to an answer: how many have gone over a limit already, and what they make of the median.
const { answer, part, question } = defineProps<{ answer: Took; part: TookPart; question: Question }>()

const labels = computed(() => (answer.by.length > 0 ? answer.by : ['orders']))
const groups = computed(() => [...part.groups, part.total])
const namesOf = (g: Group) => (g.keys.length > 0 ? keysOf(g) : labels.value.map(() => 'all'))

/** The orders of a group by what the limit makes of them. */
const behind = (g: Group, beyond: string) => ordersBehind(question, { beyond, group: g.keys })
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="With the orders that still run">
    <table class="plain" data-test="waiting">
      <thead>
        <tr>
          <th :colspan="labels.length" />
          <th v-if="answer.limit" class="heading" colspan="2" scope="colgroup">{{ answer.limit }}</th>
          <th v-if="answer.limit" colspan="5" />
          <th v-if="part.total.estimate" class="heading" colspan="3" scope="colgroup">
            {{ answer.heading }}
          </th>
        </tr>
        <tr>
          <th v-for="label in labels" :key="label" scope="col">{{ label }}</th>
          <template v-if="answer.limit">
            <th class="number" scope="col">finished</th>
            <th class="number" scope="col">still waiting</th>
            <th class="number" scope="col">finished within</th>
            <th class="number" scope="col">undecided</th>
            <th class="number" scope="col">share %</th>
            <th class="number" scope="col">between %</th>
            <th class="number" scope="col">cancelled over it</th>
          </template>
          <template v-if="part.total.estimate">
            <th class="number" scope="col">still running</th>
            <th class="number" scope="col">median</th>
            <th class="number" scope="col">median with running</th>
          </template>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in groups" :key="JSON.stringify(g.keys)" :class="{ all: g === part.total }">
          <td v-for="(name, i) in namesOf(g)" :key="i">{{ name }}</td>
          <template v-if="g.over">
            <td class="number">
              <router-link :to="behind(g, 'finished')">{{ count(g.over.finished) }}</router-link>
            </td>
            <td class="number">
              <router-link :to="behind(g, 'waiting')" data-test="over-waiting">{{
                count(g.over.waiting)
              }}</router-link>
            </td>
            <td class="number">
              <router-link :to="behind(g, 'within')">{{ count(g.over.within) }}</router-link>
            </td>
            <td class="number">
              <router-link :to="behind(g, 'undecided')">{{ count(g.over.undecided) }}</router-link>
            </td>
            <td class="number">{{ g.over.share }}</td>
            <td class="number">{{ g.over.low }} to {{ g.over.high }}</td>
            <td class="number">
              <router-link :to="behind(g, 'cancelled')">{{ count(g.over.cancelled) }}</router-link>
            </td>
          </template>
          <template v-if="g.estimate">
            <td class="number">{{ count(g.estimate.running) }}</td>
            <td class="number">{{ decimal(g.median, 1) }}</td>
            <td class="number">
              {{ g.estimate.median === null ? 'not reached' : length(g.estimate.median) }}
            </td>
          </template>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="answer.limit" class="says">
    The share is of all that are decided. Undecided orders still run and are not over yet: between are the
    shares should none or all of them go over. Orders that were over the limit when they were cancelled stand
    beside the share, and outside it.
  </p>
  <p v-if="part.total.estimate" class="says" data-test="estimate">
    <b class="words">{{ part.total.estimate.words }}.</b> An order that still runs counts as longer than it
    has run so far, a cancelled one as longer than it had run when it was cancelled (the product-limit
    estimate, if no order were cancelled).
  </p>
</template>

<style scoped>
.panel {
  margin-top: 16px;
}

.heading {
  text-align: center !important;
  white-space: nowrap !important;
}

thead tr:first-child th:not(.heading) {
  border-bottom-color: transparent;
}

.says {
  margin: 8px 4px 0;
  font-size: 0.9rem;
}

.words {
  display: inline-block;
}

.words::first-letter {
  text-transform: uppercase;
}
</style>
