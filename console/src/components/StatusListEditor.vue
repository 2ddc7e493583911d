<script setup lang="ts">
import { inject, ref, watch } from 'vue'
import { Problem, sendJSON, type StatusList, type StatusSetting } from '@/api/client'
import { CHANGED } from '@/keys'
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
  <div class="scroll panel" tabindex="0" role="region" aria-label="The list of statuses">
    <table class="plain" data-test="status-list">
      <thead>
        <tr>
          <th scope="col">status</th>
          <th scope="col">place</th>
          <th scope="col">orders end here</th>
          <th scope="col">colour</th>
          <th scope="col">another spelling of</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.name">
          <td><StatusName :name="row.name" :statuses="list.statuses" /></td>
          <td>
            <input
              v-model.number="row.step"
              class="field place"
              type="number"
              min="0"
              max="999"
              :aria-label="`Place of ${row.name}`"
              :data-test="`step-${row.name}`"
            />
          </td>
          <td>
            <input
              v-model="row.final"
              type="checkbox"
              :aria-label="`Orders end in ${row.name}`"
              :data-test="`final-${row.name}`"
            />
          </td>
          <td>
            <select v-model="row.colour" class="field" :aria-label="`Colour of ${row.name}`">
              <option value="">by its place</option>
              <option v-for="c in list.colours" :key="c" :value="c">{{ c }}</option>
            </select>
          </td>
          <td>
            <select
              v-model="row.spelling_of"
              class="field"
              :aria-label="`${row.name} is another spelling of`"
              :data-test="`spelling-${row.name}`"
            >
              <option value="">none</option>
              <option
                v-for="s in list.statuses.filter((s) => s.name !== row.name)"
                :key="s.name"
                :value="s.name"
              >
                {{ s.name }}
              </option>
            </select>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="foot">
      <button
        type="button"
        class="link"
        :disabled="edited().length === 0"
        data-test="save-statuses"
        @click="save"
      >
        Save {{ edited().length || '' }}
      </button>
      <span v-if="refused" class="bad" role="alert">{{ refused }}</span>
      <span v-else-if="saved" class="muted" data-test="statuses-saved"
        >Saved, as a load of its own: <router-link to="/import">Import</router-link> can undo it.</span
      >
      <span v-else class="muted"
        >A spelling counts as the status that it is a spelling of; the records stay as they are.</span
      >
    </p>
  </div>
</template>

<style scoped>
.place {
  width: 74px;
}

.foot {
  padding: 12px;
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  font-size: 0.9rem;
}

.bad {
  color: rgb(var(--v-theme-error));
}
</style>
