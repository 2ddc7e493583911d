<script setup lang="ts">
import { ref } from 'vue'
import { useRoute } from 'vue-router'
import type { View } from '@/api/client'
import StateNotice from '@/components/StateNotice.vue'
import { useViewList, useViews } from '@/composables/useViews'

// What was asked and kept under a name: opened, renamed, copied and deleted here.
const route = useRoute()
const { views, problem, retry, look } = useViewList()
const { rename, copy, remove, refused } = useViews()

/** What is being named anew, and how. */
const naming = ref<{ name: string; as: 'rename' | 'copy'; to: string }>()

async function named() {
  const now = naming.value
  if (!now?.to.trim()) return
  const change = now.as === 'rename' ? rename : copy
  if (await change(now.name, now.to.trim())) naming.value = undefined
  look()
}

async function drop(name: string) {
  await remove(name)
  look()
}

const pages: Record<string, string> = { '/orders': 'Orders', '/how-long': 'How long', '/due': 'Due' }
const pageOf = (v: View) => pages[v.address.split('?')[0] ?? ''] ?? ''
</script>

<template>
  <div>
    <h1>What was asked, and kept under a name?</h1>
    <p v-if="route.query.missing" class="amber" role="alert">There is no view “{{ route.query.missing }}”.</p>
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="views">
      <div v-if="views.views.length > 0" class="scroll panel" tabindex="0" role="region" aria-label="Views">
        <table class="plain" data-test="views">
          <thead>
            <tr>
              <th scope="col">name</th>
              <th scope="col">page</th>
              <th scope="col">asks</th>
              <th scope="col">kept</th>
              <th scope="col"><span class="muted">change</span></th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="v in views.views" :key="v.name">
              <td>
                <router-link :to="`/views/${encodeURIComponent(v.name)}`">{{ v.name }}</router-link>
              </td>
              <td>{{ pageOf(v) }}</td>
              <td class="asks">{{ v.sentence }}</td>
              <td>{{ v.saved_at.slice(0, 10) }}</td>
              <td class="changes">
                <button
                  type="button"
                  class="link"
                  :data-test="`rename-${v.name}`"
                  @click="naming = { name: v.name, as: 'rename', to: v.name }"
                >
                  Rename
                </button>
                <button
                  type="button"
                  class="link"
                  :data-test="`copy-${v.name}`"
                  @click="naming = { name: v.name, as: 'copy', to: `${v.name}, copy` }"
                >
                  Copy
                </button>
                <button type="button" class="link" :data-test="`delete-${v.name}`" @click="drop(v.name)">
                  Delete
                </button>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-else class="muted">
        There are none yet. <b>Keep</b>, on the pages Orders, How long and Due, keeps what is asked there.
      </p>
      <form v-if="naming" class="panel" @submit.prevent="named">
        <label
          >{{
            naming.as === 'rename'
              ? `Another name for “${naming.name}”`
              : `Name of the copy of “${naming.name}”`
          }}
          <input v-model="naming.to" class="field" type="text" maxlength="100" data-test="new-name" />
        </label>
        <button type="submit" class="save" data-test="give-name">Keep</button>
        <button type="button" class="link" @click="naming = undefined">Leave it</button>
      </form>
      <p v-if="refused" class="amber" role="alert" data-test="view-refused">{{ refused }}</p>
    </template>
    <p v-else class="muted">Looking them up …</p>
  </div>
</template>

<style scoped>
.asks {
  white-space: normal !important;
  min-width: 280px;
}

.changes button + button {
  margin-left: 14px;
}

form {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: center;
  padding: 14px 18px;
  margin-top: 16px;
}

.field {
  margin-left: 8px;
  width: 260px;
}
</style>
