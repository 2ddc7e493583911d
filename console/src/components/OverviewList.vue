<script setup lang="ts">
import type { Overview } from '@/api/client'

// A few rows of the overview that lead on.
defineProps<{ list: Overview['lists'][number] }>()
</script>

<template>
  <v-card border height="100%" :data-test="`overview-${list.code}`">
    <v-card-text>
      <h2>{{ list.title }}</h2>
      <p v-if="list.rows.length === 0" class="muted">{{ list.none }}</p>
      <table v-else class="plain">
        <tbody>
          <tr v-for="(row, i) in list.rows" :key="i">
            <td>
              <router-link v-if="row.order" :to="{ path: '/orders', query: { order: row.order } }">{{
                row.order
              }}</router-link>
              {{ row.text }}
            </td>
            <td class="number">
              <router-link v-if="row.address" :to="row.address">{{ row.number }}</router-link>
              <template v-else>{{ row.number }}</template>
            </td>
          </tr>
        </tbody>
      </table>
    </v-card-text>
  </v-card>
</template>

<style scoped>
h2 {
  margin: 0 0 4px;
  font-size: 1rem;
  font-weight: 550;
}

td {
  padding: 4px 0 !important;
  height: auto !important;
}

.number {
  padding-left: 12px !important;
  text-align: right;
  white-space: nowrap;
}
</style>
