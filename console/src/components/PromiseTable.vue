<script setup lang="ts">
import { computed } from 'vue'
import type { Group, Took, TookPart } from '@/api/client'
import { count, decimal, keysOf, length } from '@/format'
import { ordersBehind, type Question } from '@/question'

// How each group's orders stand towards their promise; each number opens them.
const { answer, part, question } = defineProps<{ answer: Took; part: TookPart; question: Question }>()

const labels = computed(() => (answer.by.length > 0 ? answer.by : ['orders']))
const groups = computed(() => [...part.groups, part.total])
const standings = computed(() => part.total.kept?.standings ?? [])
const namesOf = (g: Group) => (g.keys.length > 0 ? keysOf(g) : labels.value.map(() => 'all'))
const late = (g: Group) => g.kept?.standings.find((s) => s.code === 'reached-late')
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Against the promise">
    <table class="plain" data-test="promise">
      <thead>
        <tr>
          <th :colspan="labels.length + 2 + standings.length" />
          <th class="heading" colspan="3" scope="colgroup">working days late</th>
        </tr>
        <tr>
          <th v-for="label in labels" :key="label" scope="col">{{ label }}</th>
          <th class="number" scope="col">asked</th>
          <th v-for="s in standings" :key="s.code" class="number" scope="col">{{ s.label }}</th>
          <th class="number" scope="col">late %</th>
          <th class="number" scope="col">median</th>
          <th class="number" scope="col">p90</th>
          <th class="number" scope="col">max</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in groups" :key="JSON.stringify(g.keys)" :class="{ all: g === part.total }">
          <td v-for="(name, i) in namesOf(g)" :key="i">{{ name }}</td>
          <td class="number">
            <router-link :to="ordersBehind(question, { group: g.keys })">{{ count(g.asked) }}</router-link>
          </td>
          <td v-for="s in g.kept?.standings ?? []" :key="s.code" class="number">
            <router-link
              v-if="s.orders > 0"
              :to="ordersBehind(question, { standing: s.code, group: g.keys })"
              :data-test="`standing-${s.code}`"
              >{{ count(s.orders) }}</router-link
            >
            <span v-else class="muted">0</span>
          </td>
          <td class="number">{{ g.kept?.late_share }}</td>
          <td class="number">{{ decimal(late(g)?.median ?? null, 1) }}</td>
          <td class="number">{{ decimal(late(g)?.p90 ?? null, 1) }}</td>
          <td class="number">{{ length(late(g)?.max ?? null) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <p v-if="part.total.kept" class="says">
    By the days themselves: promised on a Friday and come on the Saturday is late, though no working day lies
    between. Late %: {{ count(part.total.kept.late) }} late, open or not, of
    {{ count(part.total.kept.told) }} that can be told, since they have come or were due before
    {{ answer.data_date }}.
  </p>
</template>

<style scoped>
.panel {
  margin-top: 16px;
}

.heading {
  text-align: right !important;
  border-bottom: 1px solid rgb(var(--v-theme-line)) !important;
}

thead tr:first-child th {
  border-bottom-color: transparent;
  padding-bottom: 0.2rem;
}

.says {
  margin: 8px 4px 0;
  font-size: 0.9rem;
}
</style>
