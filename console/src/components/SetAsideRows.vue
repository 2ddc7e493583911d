<script setup lang="ts">
import type { Load } from '@/api/client'
import { count } from '@/format'

// The first rows that a load could not use, each with its place and what was expected there.
defineProps<{ load: Load }>()
</script>

<template>
  <div>
    <v-table density="compact" tabindex="0" role="region" aria-label="Rows set aside" data-test="set-aside">
      <thead>
        <tr>
          <th scope="col">file</th>
          <th class="number" scope="col">row</th>
          <th scope="col">column</th>
          <th scope="col">value</th>
          <th scope="col">reason</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in load.rows" :key="r.file + r.row">
          <td>{{ r.file }}</td>
          <td class="number">{{ r.row }}</td>
          <td>{{ r.column }}</td>
          <td>{{ r.value }}</td>
          <td class="reason">{{ r.reason }}</td>
        </tr>
      </tbody>
    </v-table>
    <p v-if="load.set_aside > load.rows.length" class="muted more">
      and {{ count(load.set_aside - load.rows.length) }} more
    </p>
  </div>
</template>

<style scoped>
.reason {
  white-space: normal !important;
  min-width: 18rem;
}

.more {
  padding: 8px 12px;
}
</style>
