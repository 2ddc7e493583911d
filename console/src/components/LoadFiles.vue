<script setup lang="ts">
import type { Load } from '@/api/client'
import { count } from '@/format'

// What became of the files of a load, a row for each kind of record in each file.
defineProps<{ load: Load }>()
</script>

<template>
  <v-table density="compact" data-test="load-files">
    <thead>
      <tr>
        <th scope="col">file</th>
        <th scope="col">records</th>
        <th class="number" scope="col">new</th>
        <th class="number" scope="col">changed</th>
        <th class="number" scope="col">same</th>
        <th class="number" scope="col">set aside</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="f in load.files" :key="f.name + f.kind">
        <td>{{ f.name }}</td>
        <td>{{ f.kind.replace(/-/g, ' ') }}</td>
        <td class="number">{{ count(f.new) }}</td>
        <td class="number">{{ count(f.changed) }}</td>
        <td class="number">{{ count(f.same) }}</td>
        <td class="number" :class="{ amber: f.set_aside > 0 }">{{ count(f.set_aside) }}</td>
      </tr>
    </tbody>
  </v-table>
</template>

<style scoped>
.number {
  text-align: right;
}
</style>
