<script setup lang="ts">
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { StatusAnswer, StatusGroup } from '@/api/client'
import { count, decimal, keyName, length } from '@/format'
import StatusName from './StatusName.vue'

// Where orders stand, or how long they were in each status: each number opens its orders.
const { answer, times, behind, without } = defineProps<{
  answer: StatusAnswer
  /** How long, not where. */
  times?: boolean
  behind: (status: string, group: StatusGroup) => RouteLocationRaw
  /** The orders without a record. */
  without?: (group: StatusGroup) => RouteLocationRaw
}>()

const head = computed(() => answer.each || answer.by[0])
const wide = computed(() => !times && head.value !== undefined && head.value !== '')
const sections = computed(() => [...answer.groups, answer.total])
const name = (g: StatusGroup) =>
  g === answer.total ? 'all' : keyName(g.keys[0] ?? '') + (g.cut ? ' (part)' : '')
const rows = computed(() =>
  sections.value.flatMap((g) =>
    g.cells
      .filter((c) => !times || c.count > 0)
      .map((c, i) => ({ g, c, first: i === 0, all: g === answer.total && sections.value.length > 1 })),
  ),
)
const share = (n: number) => decimal((100 * n) / Math.max(1, answer.total.orders), 1)
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Statuses">
    <table v-if="wide" class="plain" data-test="status-groups">
      <thead>
        <tr>
          <th scope="col">{{ head }}</th>
          <th v-for="c in answer.total.cells" :key="c.status" class="number" scope="col">{{ c.status }}</th>
          <th class="number" scope="col">no status</th>
          <th class="number" scope="col">all</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in sections" :key="JSON.stringify(g.keys)" :class="{ all: g === answer.total }">
          <td>{{ name(g) }}</td>
          <td v-for="c in g.cells" :key="c.status" class="number">
            <router-link v-if="c.count > 0" :to="behind(c.status, g)">{{ count(c.count) }}</router-link>
            <span v-else class="muted">0</span>
          </td>
          <td class="number">
            <router-link v-if="g.no_status > 0 && without" :to="without(g)">{{
              count(g.no_status)
            }}</router-link>
            <span v-else class="muted">{{ count(g.no_status) }}</span>
          </td>
          <td class="number">{{ count(g.orders) }}</td>
        </tr>
      </tbody>
    </table>
    <table v-else class="plain" :data-test="times ? 'status-times' : 'status-latest'">
      <thead>
        <tr>
          <th v-if="head" scope="col">{{ head }}</th>
          <th scope="col">status</th>
          <th class="number" scope="col">{{ times ? 'stays' : 'orders' }}</th>
          <th v-if="times" class="number" scope="col">orders</th>
          <th v-else class="number" scope="col">%</th>
          <th v-if="times" class="number" scope="col">still there</th>
          <th class="number" scope="col">{{ times ? 'mean' : 'has stood, mean' }}, {{ answer.heading }}</th>
          <th class="number" scope="col">median</th>
          <th class="number" scope="col">p90</th>
          <th class="number" scope="col">longest</th>
          <th v-if="times" class="number" scope="col">% of all time</th>
          <th v-if="times" class="number" scope="col">order-days</th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="{ g, c, first, all } in rows"
          :key="`${JSON.stringify(g.keys)} ${c.status}`"
          :class="{ all }"
        >
          <td v-if="head">{{ first ? name(g) : '' }}</td>
          <td><StatusName :name="c.status" :statuses="answer.statuses" /></td>
          <td class="number">
            <template v-if="times">{{ count(c.count) }}</template>
            <router-link v-else-if="c.count > 0" :to="behind(c.status, g)" :data-test="`at-${c.status}`">{{
              count(c.count)
            }}</router-link>
            <span v-else class="muted">0</span>
          </td>
          <td v-if="times" class="number">
            <router-link :to="behind(c.status, g)" :data-test="`in-${c.status}`">{{
              count(c.orders)
            }}</router-link>
          </td>
          <td v-else class="number">{{ share(c.count) }}</td>
          <td v-if="times" class="number">{{ count(c.running) }}</td>
          <td class="number">{{ decimal(c.mean, 2) }}</td>
          <td class="number">{{ decimal(c.median, 1) }}</td>
          <td class="number">{{ decimal(c.p90, 1) }}</td>
          <td class="number">{{ length(c.longest) }}</td>
          <td v-if="times" class="number">{{ decimal(c.share, 1) }}</td>
          <td v-if="times" class="number">{{ count(Math.round(c.order_days)) }}</td>
        </tr>
        <tr v-if="!times">
          <td>no status</td>
          <td class="number">
            <router-link
              v-if="answer.total.no_status > 0 && without"
              :to="without(answer.total)"
              data-test="no-status"
              >{{ count(answer.total.no_status) }}</router-link
            >
            <span v-else class="muted">0</span>
          </td>
          <td class="number">{{ share(answer.total.no_status) }}</td>
          <td colspan="4" />
        </tr>
      </tbody>
      <tfoot v-if="!times">
        <tr>
          <td>all</td>
          <td class="number">{{ count(answer.total.orders) }}</td>
          <td class="number">{{ share(answer.total.orders) }}</td>
          <td colspan="4" />
        </tr>
      </tfoot>
    </table>
  </div>
</template>
