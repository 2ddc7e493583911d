<script setup lang="ts">
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { StatusMoves } from '@/api/client'
import { count, decimal } from '@/format'
import StatusName from './StatusName.vue'

// From which status to which: the matrix, the returns and the paths; each number opens its orders.
const { moves, behind } = defineProps<{ moves: StatusMoves; behind: (status: string) => RouteLocationRaw }>()

const by = computed(() => new Map(moves.moves.map((m) => [JSON.stringify([m.from, m.to]), m])))
const at = (from: string, to: string) => by.value.get(JSON.stringify([from, to]))
const from = computed(() => moves.statuses.filter((s) => moves.moves.some((m) => m.from === s.name)))
const to = computed(() => moves.statuses.filter((s) => moves.moves.some((m) => m.to === s.name)))
const most = computed(() => Math.max(1, ...moves.moves.map((m) => m.count)))
const sum = (name: string) => moves.moves.reduce((all, m) => all + (m.from === name ? m.count : 0), 0)
const place = (name: string) => moves.statuses.findIndex((s) => s.name === name)

/** The more often, the deeper; moves back are amber. */
function shade(a: string, b: string): string | undefined {
  const move = at(a, b)
  if (!move) return undefined
  const colour = place(b) < place(a) ? 'secondary' : 'primary'
  return `color-mix(in srgb, rgb(var(--v-theme-${colour})) ${Math.round(6 + 34 * Math.sqrt(move.count / most.value))}%, rgb(var(--v-theme-surface)))`
}
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Moves from status to status">
    <table class="plain" :class="{ many: to.length > 10 }" data-test="moves">
      <thead>
        <tr>
          <th scope="col">from ↓ to →</th>
          <th v-for="s in to" :key="s.name" class="number" scope="col">{{ s.name }}</th>
          <th class="number" scope="col">all moves</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in from" :key="s.name">
          <th scope="row"><StatusName :name="s.name" :statuses="moves.statuses" /></th>
          <td v-for="n in to" :key="n.name" class="number" :style="{ background: shade(s.name, n.name) }">
            <template v-if="at(s.name, n.name)">
              <router-link
                :to="behind(`moved:${s.name} → ${n.name}`)"
                :data-test="`move-${s.name}-${n.name}`"
                >{{ count(at(s.name, n.name)!.count) }}</router-link
              >
              <small class="muted"
                ><span class="after">after </span>{{ decimal(at(s.name, n.name)!.median, 1) }}</small
              >
            </template>
            <span v-else class="muted">·</span>
          </td>
          <td class="number">{{ count(sum(s.name)) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="muted note">
      Below each number, the median of the stay before the move, in {{ moves.heading }}. Moves back to an
      earlier status are amber.
    </p>
  </div>
  <h2>The same, drawn</h2>
  <slot />
  <h2>Returns</h2>
  <p v-if="moves.returns.length === 0" class="panel none">No order came back to a status.</p>
  <div v-else class="scroll panel" tabindex="0" role="region" aria-label="Returns">
    <table class="plain" data-test="returns">
      <thead>
        <tr>
          <th scope="col">back to</th>
          <th class="number" scope="col">returns</th>
          <th class="number" scope="col">orders</th>
          <th class="number" scope="col">mean away, {{ moves.heading }}</th>
          <th class="number" scope="col">median</th>
          <th class="number" scope="col">p90</th>
          <th class="number" scope="col">order-days away</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in moves.returns" :key="r.to">
          <td><StatusName :name="r.to" :statuses="moves.statuses" /></td>
          <td class="number">{{ count(r.count) }}</td>
          <td class="number">
            <router-link :to="behind(`returned:${r.to}`)" :data-test="`returned-${r.to}`">{{
              count(r.orders)
            }}</router-link>
          </td>
          <td class="number">{{ decimal(r.mean, 2) }}</td>
          <td class="number">{{ decimal(r.median, 1) }}</td>
          <td class="number">{{ decimal(r.p90, 1) }}</td>
          <td class="number">{{ count(Math.round(r.all)) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <h2>Paths, the most frequent first</h2>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Paths">
    <table class="plain" data-test="paths">
      <thead>
        <tr>
          <th class="number" scope="col">orders</th>
          <th class="number" scope="col">%</th>
          <th class="number" scope="col">ended</th>
          <th class="number" scope="col">median, {{ moves.heading }}</th>
          <th scope="col">path</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in moves.paths" :key="p.text">
          <td class="number">
            <router-link :to="behind(`path:${p.text}`)">{{ count(p.orders) }}</router-link>
          </td>
          <td class="number">{{ decimal(p.percent, 1) }}</td>
          <td class="number">{{ count(p.ended) }}</td>
          <td class="number">{{ decimal(p.median, 1) }}</td>
          <td class="path">{{ p.text }}</td>
        </tr>
      </tbody>
    </table>
    <p v-if="moves.other_orders > 0" class="muted note">
      {{ count(moves.other_orders) }} more orders on {{ count(moves.all_paths - moves.paths.length) }} other
      paths.
    </p>
  </div>
</template>

<style scoped>
h2 {
  font-size: 1.05rem;
  font-weight: 500;
  margin: 24px 4px 10px;
}

tbody th {
  vertical-align: middle !important;
  border-bottom: 0 !important;
}

tbody tr + tr th {
  border-top: 1px solid rgb(var(--v-theme-line));
}

tbody th:first-child {
  position: sticky;
  left: 0;
  background: rgb(var(--v-theme-surface));
}

.many .after {
  display: none;
}

/* With many statuses the names of the columns stand upright, so that twenty go beside each other. */
.many td,
.many thead th {
  padding-left: 4px;
  padding-right: 6px;
  font-size: 0.82rem;
}

.many thead th.number {
  writing-mode: sideways-lr;
  text-align: left;
  white-space: nowrap;
  max-width: none;
}

td a,
td small {
  color: inherit;
}

small {
  display: block;
  font-size: 0.76rem;
}

.note,
.none {
  padding: 10px 12px;
  font-size: 0.85rem;
}

.path {
  white-space: normal !important;
  min-width: 320px;
}
</style>
