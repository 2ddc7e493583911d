<script setup lang="ts">
import type { Load } from '@/api/client'
import { count } from '@/format'

// What became of the files of loads, or would become of them, a row for each kind in each file.
defineProps<{ loads: readonly Load[]; numbered?: boolean }>()
defineSlots<{ last?: (props: { load: Load }) => unknown }>()
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Files">
    <table class="plain" data-test="loads">
      <thead>
        <tr>
          <template v-if="numbered">
            <th class="number" scope="col">load</th>
            <th scope="col">at</th>
            <th scope="col">by</th>
            <th scope="col">data date</th>
          </template>
          <th scope="col">file</th>
          <th scope="col">taken for</th>
          <th class="number" scope="col">new</th>
          <th class="number" scope="col">changed</th>
          <th class="number" scope="col">same</th>
          <th class="number" scope="col">set aside</th>
          <th v-if="$slots.last" scope="col"><span class="hidden">what can be done</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="load in loads" :key="load.number">
          <tr
            v-for="(f, i) in load.files"
            :key="f.name + f.kind"
            :class="{ undone: load.undone_at, begins: i === 0 }"
          >
            <template v-if="numbered">
              <td class="number">{{ i === 0 ? load.number : '' }}</td>
              <td>{{ i === 0 ? load.loaded_at.slice(0, 16).replace('T', ' ') : '' }}</td>
              <td>{{ i === 0 ? load.loaded_by : '' }}</td>
              <td>{{ i === 0 ? load.data_date : '' }}</td>
            </template>
            <td :title="f.sha256">{{ f.name }}</td>
            <td>{{ f.kind.replace(/-/g, ' ') }}</td>
            <td class="number">{{ count(f.new) }}</td>
            <td class="number">{{ count(f.changed) }}</td>
            <td class="number">{{ count(f.same) }}</td>
            <td class="number" :class="{ amber: f.set_aside > 0 }">{{ count(f.set_aside) }}</td>
            <td v-if="$slots.last"><slot v-if="i === 0" name="last" :load="load" /></td>
          </tr>
        </template>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
th,
td {
  padding-inline: 0.5rem !important;
}

.undone td {
  text-decoration: line-through;
  color: rgb(var(--v-theme-muted));
}

.hidden {
  position: absolute;
  clip-path: inset(50%);
}
</style>
