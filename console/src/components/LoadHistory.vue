<script setup lang="ts">
import { mdiHistory } from '@mdi/js'
import { ref } from 'vue'
import type { Load } from '@/api/client'
import { count } from '@/format'

// What was imported, a row for each load; one of several files unfolds into them.
const { loads } = defineProps<{ loads: readonly Load[] }>()
defineSlots<{ actions: (props: { load: Load }) => unknown }>()

const open = ref<ReadonlySet<number>>(new Set())
function toggle(load: Load) {
  const next = new Set(open.value)
  if (!next.delete(load.number)) next.add(load.number)
  open.value = next
}

const sum = (load: Load, what: 'new' | 'changed' | 'same') => load.files.reduce((n, f) => n + f[what], 0)
const names = (load: Load) => [...new Set(load.files.map((f) => f.name))]
/** The kinds of records of a load, the first of them where they are several. */
function kinds(load: Load): string {
  const all = [...new Set(load.files.map((f) => f.kind.replace(/-/g, ' ')))]
  return all.length <= 2 ? all.join(', ') : `${all[0]} and ${all.length - 1} more`
}
</script>

<template>
  <v-table density="compact" class="history" data-test="loads">
    <thead>
      <tr>
        <th class="number" scope="col">load</th>
        <th scope="col">at</th>
        <th scope="col">by</th>
        <th scope="col">data through</th>
        <th scope="col">files</th>
        <th scope="col">records</th>
        <th class="number" scope="col">new</th>
        <th class="number" scope="col">changed</th>
        <th class="number" scope="col">same</th>
        <th class="number" scope="col">set aside</th>
        <th scope="col"><span class="unseen">What can be done</span></th>
      </tr>
    </thead>
    <tbody>
      <template v-for="load in loads" :key="load.number">
        <tr :class="{ undone: load.undone_at }">
          <td class="number">{{ load.number }}</td>
          <td>{{ load.loaded_at.slice(0, 16).replace('T', ' ') }}</td>
          <td>{{ load.loaded_by }}</td>
          <td>{{ load.data_date }}</td>
          <td>
            <template v-if="names(load).length === 1">{{ names(load)[0] }}</template>
            <v-btn
              v-else
              variant="text"
              size="small"
              :aria-expanded="open.has(load.number)"
              :data-test="`unfold-${load.number}`"
              @click="toggle(load)"
              >{{ names(load).length }} files</v-btn
            >
          </td>
          <td>{{ kinds(load) }}</td>
          <td class="number">{{ count(sum(load, 'new')) }}</td>
          <td class="number">{{ count(sum(load, 'changed')) }}</td>
          <td class="number">{{ count(sum(load, 'same')) }}</td>
          <td class="number" :class="{ amber: load.set_aside > 0 }">{{ count(load.set_aside) }}</td>
          <td class="actions">
            <v-btn
              v-if="!load.undone_at"
              :icon="mdiHistory"
              size="small"
              :to="{ path: '/overview', query: { as_of_load: load.number } }"
              :aria-label="`The records as they were after load ${load.number}`"
              title="As it was"
              :data-test="`as-of-${load.number}`"
            />
            <slot name="actions" :load="load" />
          </td>
        </tr>
        <template v-if="open.has(load.number)">
          <tr v-for="f in load.files" :key="f.name + f.kind" class="file" :class="{ undone: load.undone_at }">
            <td colspan="4" />
            <td>{{ f.name }}</td>
            <td>{{ f.kind.replace(/-/g, ' ') }}</td>
            <td class="number">{{ count(f.new) }}</td>
            <td class="number">{{ count(f.changed) }}</td>
            <td class="number">{{ count(f.same) }}</td>
            <td class="number">{{ count(f.set_aside) }}</td>
            <td />
          </tr>
        </template>
      </template>
    </tbody>
  </v-table>
</template>

<style scoped>
.history th,
.history td {
  white-space: nowrap;
  padding-inline: 8px;
}

.history th {
  position: relative; /* what is unseen in it is cut off with it */
}

.number {
  text-align: right;
}

.undone td:not(.actions),
.file td {
  color: rgb(var(--v-theme-muted));
}

.undone td:not(.actions) {
  text-decoration: line-through;
}

.unseen {
  position: absolute;
  clip-path: inset(50%);
}
</style>
