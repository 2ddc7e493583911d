<script setup lang="ts">
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { Immediate, ImmediateGroup, ImmediatePart } from '@/api/client'
import { intervalWords, rateWords } from '@/charts/immediate'
import { count, decimal, keyName } from '@/format'

// What was asked for at once and what was got, by group; below it the two side by side. Each number opens its orders.
const { answer, part, behind } = defineProps<{
  answer: Immediate
  part: ImmediatePart
  behind: (what: string, group: ImmediateGroup) => RouteLocationRaw
}>()

const heads = computed(() => (answer.by.length > 0 ? answer.by : ['orders']))
const groups = computed(() => [...part.groups, part.total])
const names = (g: ImmediateGroup) => (g.keys.length > 0 ? g.keys.map(keyName) : heads.value.map(() => 'all'))
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Rates">
    <table class="plain" data-test="rates">
      <thead>
        <tr>
          <th v-for="head in heads" :key="head" scope="col">{{ head }}</th>
          <th class="number" scope="col">asked: for that day</th>
          <th class="number" scope="col">%</th>
          <th class="number" scope="col">95% interval</th>
          <th class="number" scope="col">got: {{ answer.got }} that day</th>
          <th class="number" scope="col">%</th>
          <th class="number" scope="col">no requested date</th>
          <th class="number" scope="col">booked ahead, median days</th>
          <th class="number" scope="col">working days</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in groups" :key="JSON.stringify(g.keys)" :class="{ all: g === part.total }">
          <td v-for="(name, i) in names(g)" :key="i">{{ name }}</td>
          <td class="number">
            <router-link :to="behind('immediate', g)" data-test="asked">{{ rateWords(g.asked) }}</router-link>
          </td>
          <td class="number">{{ g.asked.all > 0 ? g.asked.percent : '' }}</td>
          <td class="number">{{ intervalWords(g.asked) }}</td>
          <td class="number">
            <router-link :to="behind('any:on-the-day', g)" data-test="got">{{
              rateWords(g.got)
            }}</router-link>
          </td>
          <td class="number">{{ g.got.all > 0 ? g.got.percent : '' }}</td>
          <td class="number">
            <router-link :to="behind('no-requested-date', g)">{{
              count(g.kinds[2]?.orders ?? 0)
            }}</router-link>
          </td>
          <td class="number">{{ decimal(g.ahead.median_days, 1) }}</td>
          <td class="number">{{ decimal(g.ahead.median_working_days, 1) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <h2>Asked, and got</h2>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Asked, and got">
    <table class="plain" data-test="asked-and-got">
      <thead>
        <tr>
          <th scope="col">asked ↓ got →</th>
          <th v-for="k in part.total.got_by" :key="k.name" class="number" scope="col">{{ k.label }}</th>
          <th class="number" scope="col">all</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(k, i) in part.total.kinds" :key="k.name">
          <td>{{ k.label }}</td>
          <td v-for="(n, j) in part.total.cross[i]" :key="j" class="number">
            <router-link
              v-if="n > 0"
              :to="behind(`${k.name}:${part.total.got_by[j]?.name}`, part.total)"
              :data-test="`cross-${i}-${j}`"
              >{{ count(n) }}</router-link
            >
            <span v-else class="muted">0</span>
          </td>
          <td class="number">
            <router-link :to="behind(k.name, part.total)">{{ count(k.orders) }}</router-link>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td>all</td>
          <td v-for="k in part.total.got_by" :key="k.name" class="number">{{ count(k.orders) }}</td>
          <td class="number">{{ count(part.total.orders) }}</td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
h2 {
  font-size: 1.05rem;
  font-weight: 500;
  margin: 24px 4px 10px;
}
</style>
