<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import type { View } from '@/api/client'
import StateNotice from '@/components/StateNotice.vue'
import { pages } from '@/pages'
import { useViewList, useViews } from '@/composables/useViews'

// The saved views: opened, renamed, copied and deleted here.
const route = useRoute()
const { views, problem, retry, look } = useViewList()
const { keep, rename, copy, remove, refused } = useViews()

/** What is being named anew, and how. */
const naming = ref<{ name: string; as: 'rename' | 'copy'; to: string }>()

async function named() {
  const now = naming.value
  if (!now?.to.trim()) return
  const change = now.as === 'rename' ? rename : copy
  if (await change(now.name, now.to.trim())) naming.value = undefined
  look()
}

/** What was deleted last, as long as it can be brought back. */
const dropped = ref<View>()

async function drop(view: View) {
  if (await remove(view.name)) dropped.value = view
  look()
}

async function bringBack() {
  const view = dropped.value
  dropped.value = undefined
  if (view) await keep(view.name, { address: view.address, sentence: view.sentence }, false)
  look()
}

const pageOf = (v: View) => pages.find((page) => page.path === v.address.split('?')[0])?.name ?? ''
</script>

<template>
  <div>
    <h1>Saved views</h1>
    <p v-if="route.query.missing" class="amber" role="alert">There is no view “{{ route.query.missing }}”.</p>
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="views">
      <v-card v-if="views.views.length > 0" border>
        <v-table density="compact" tabindex="0" role="region" aria-label="Saved views" data-test="views">
          <thead>
            <tr>
              <th scope="col">name</th>
              <th scope="col">page</th>
              <th scope="col">asks</th>
              <th scope="col">saved</th>
              <th scope="col"><span class="muted">change</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="v in views.views" :key="v.name">
              <th scope="row">
                <router-link :to="`/views/${encodeURIComponent(v.name)}`">{{ v.name }}</router-link>
              </th>
              <td>{{ pageOf(v) }}</td>
              <td class="asks">{{ v.sentence }}</td>
              <td>{{ v.saved_at.slice(0, 10) }}</td>
              <td class="changes">
                <v-btn
                  size="small"
                  :data-test="`rename-${v.name}`"
                  @click="naming = { name: v.name, as: 'rename', to: v.name }"
                  >Rename</v-btn
                >
                <v-btn
                  size="small"
                  :data-test="`copy-${v.name}`"
                  @click="naming = { name: v.name, as: 'copy', to: `${v.name}, copy` }"
                  >Copy</v-btn
                >
                <v-btn size="small" :data-test="`delete-${v.name}`" @click="drop(v)">Delete</v-btn>
              </td>
            </tr>
          </tbody>
        </v-table>
      </v-card>
      <p v-else class="muted">
        There are none yet. <b>Save view</b>, on each page, saves what is asked there.
      </p>
      <v-dialog
        :model-value="naming !== undefined"
        max-width="30rem"
        :aria-label="naming?.as === 'rename' ? 'Rename the view' : 'Copy the view'"
        @update:model-value="naming = undefined"
      >
        <v-card v-if="naming">
          <v-form @submit.prevent="named">
            <v-card-text>
              <v-text-field
                v-model="naming.to"
                autofocus
                :label="
                  naming.as === 'rename' ? `New name of ${naming.name}` : `Name of the copy of ${naming.name}`
                "
                maxlength="100"
                data-test="new-name"
              />
            </v-card-text>
            <v-card-actions>
              <v-btn @click="naming = undefined">Cancel</v-btn>
              <v-btn type="submit" variant="flat" data-test="give-name">Save</v-btn>
            </v-card-actions>
          </v-form>
        </v-card>
      </v-dialog>
      <v-snackbar
        :model-value="dropped !== undefined"
        timeout="8000"
        @update:model-value="dropped = undefined"
      >
        {{ dropped?.name }} was deleted.
        <template #actions><v-btn data-test="undo-delete" @click="bringBack">Undo</v-btn></template>
      </v-snackbar>
      <p v-if="refused" class="amber" role="alert" data-test="view-refused">{{ refused }}</p>
    </template>
    <v-skeleton-loader v-else boilerplate type="table-row@4" />
  </div>
</template>

<style scoped>
.asks {
  min-width: 280px;
}

.changes {
  white-space: nowrap;
}
</style>
