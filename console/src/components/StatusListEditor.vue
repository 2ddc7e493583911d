<script setup lang="ts">
import { inject, ref, watch } from 'vue'
import { Problem, sendJSON, type StatusList, type StatusSetting } from '@/api/client'
import { CHANGED } from '@/keys'
import ChoiceField from './ChoiceField.vue'
import StatusName from './StatusName.vue'

// The list of statuses: their place, in which ones orders end, their colour and other spellings. What is saved is a load of
// its own, which can be undone.
const { list } = defineProps<{ list: StatusList }>()
const emit = defineEmits<{ saved: [] }>()
const changed = inject(CHANGED)

const rows = ref<(StatusSetting & { was: string })[]>([])
const refused = ref('')
const saved = ref(false)
const plain = (row: StatusSetting) =>
  JSON.stringify([
    row.name,
    Number(row.step) || 0,
    row.final ?? false,
    row.colour ?? '',
    row.spelling_of ?? '',
  ])

watch(
  () => list,
  () => {
    rows.value = list.statuses.flatMap((s) => {
      const own = {
        name: s.name,
        step: s.step,
        final: s.final,
        colour: (s.colour ?? '') as StatusSetting['colour'],
        spelling_of: '',
      }
      const spellings = s.spellings.map((name) => ({
        name,
        step: undefined,
        final: false,
        colour: '' as const,
        spelling_of: s.name,
      }))
      return [own, ...spellings].map((row) => ({ ...row, was: plain(row) }))
    })
  },
  { immediate: true },
)

/** What a status can be another spelling of. */
const others = (name: string) =>
  Object.fromEntries(list.statuses.filter((s) => s.name !== name).map((s) => [s.name, `spelled ${s.name}`]))

const edited = () => rows.value.filter((row) => plain(row) !== row.was)

async function save() {
  try {
    const statuses = edited().map(({ name, step, final, colour, spelling_of }) => ({
      name,
      step: Number(step) || 0,
      final,
      colour,
      spelling_of,
    }))
    await sendJSON<StatusList>('PUT', '/statuses', {}, { statuses })
    refused.value = ''
    saved.value = true
    changed?.()
    emit('saved')
  } catch (error) {
    refused.value = error instanceof Problem ? error.message : String(error)
  }
}
</script>

<template>
  <v-card border>
    <v-table
      density="compact"
      tabindex="0"
      role="region"
      aria-label="The list of statuses"
      data-test="status-list"
    >
      <thead>
        <tr>
          <th scope="col">status</th>
          <th scope="col">place</th>
          <th scope="col">final</th>
          <th scope="col">colour</th>
          <th scope="col">another spelling of</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.name">
          <th scope="row"><StatusName :name="row.name" :statuses="list.statuses" /></th>
          <td>
            <v-text-field
              v-model.number="row.step"
              class="place"
              type="number"
              min="0"
              max="999"
              :aria-label="`Place of ${row.name}`"
              :data-test="`step-${row.name}`"
            />
          </td>
          <td>
            <v-checkbox
              v-model="row.final"
              :aria-label="`Orders end in ${row.name}`"
              :data-test="`final-${row.name}`"
            />
          </td>
          <td>
            <ChoiceField
              v-model="row.colour!"
              label="colour"
              :choices="{ '': 'by its place', ...Object.fromEntries(list.colours.map((c) => [c, c])) }"
            />
          </td>
          <td>
            <ChoiceField
              v-model="row.spelling_of!"
              :label="`${row.name} is`"
              :choices="{ '': 'a status of its own', ...others(row.name) }"
              :data-test="`spelling-${row.name}`"
            />
          </td>
        </tr>
      </tbody>
    </v-table>
    <v-card-actions>
      <v-btn variant="flat" :disabled="edited().length === 0" data-test="save-statuses" @click="save">
        Save {{ edited().length || '' }}
      </v-btn>
      <span v-if="refused" class="bad" role="alert">{{ refused }}</span>
      <span v-else-if="saved" class="muted" data-test="statuses-saved"
        >Saved, as a load of its own: <router-link to="/import">Import</router-link> can undo it.</span
      >
      <span v-else class="muted"
        >A spelling counts as the status that it is a spelling of; the records stay as they are.</span
      >
    </v-card-actions>
  </v-card>
</template>

<style scoped>
.place {
  width: 90px;
}

td {
  padding-block: 4px !important;
  min-width: 90px;
}

.bad {
  color: rgb(var(--v-theme-error));
}
</style>
