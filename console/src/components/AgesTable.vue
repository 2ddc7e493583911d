<script setup lang="ts">
import { computed } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { Ages } from '@/api/client'
import { count, decimal, keyName, length } from '@/format'

// How old what was open at a day was, by bucket; each number opens its orders.
const { ages, behind } = defineProps<{
  ages: Ages
  behind: (bucket: number, keys: readonly string[]) => RouteLocationRaw
}>()

const heads = computed(() => (ages.by.length > 0 ? ages.by : ['orders']))
const groups = computed(() => [...ages.groups, ages.total])
const names = (keys: readonly string[]) =>
  keys.length > 0 ? keys.map(keyName) : heads.value.map(() => 'all')
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Ages">
    <table class="plain" data-test="ages">
      <thead>
        <tr>
          <th v-for="head in heads" :key="head" scope="col">{{ head }}</th>
          <th class="number" scope="col">open</th>
          <th v-for="b in ages.buckets" :key="b.label" class="number" scope="col">{{ b.label }}</th>
          <th class="number" scope="col">median</th>
          <th class="number" scope="col">p90</th>
          <th class="number" scope="col">oldest</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="g in groups" :key="JSON.stringify(g.keys)" :class="{ all: g === ages.total }">
          <td v-for="(name, i) in names(g.keys)" :key="i">{{ name }}</td>
          <td class="number">
            <router-link :to="behind(-1, g.keys)">{{ count(g.orders) }}</router-link>
          </td>
          <td v-for="(n, i) in g.buckets" :key="i" class="number">
            <router-link v-if="n > 0" :to="behind(i, g.keys)" :data-test="`bucket-${i}`">{{
              count(n)
            }}</router-link>
            <span v-else class="muted">0</span>
          </td>
          <td class="number">{{ decimal(g.median, 1) }}</td>
          <td class="number">{{ decimal(g.p90, 1) }}</td>
          <td class="number">{{ length(g.oldest) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
