<script setup lang="ts">
import { mdiBookmarkPlusOutline } from '@mdi/js'
import { ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useViews } from '@/composables/useViews'

// Saves what the page asks under a name. A name that is taken asks before a view is overwritten.
const { sentence } = defineProps<{ sentence: string }>()

const route = useRoute()
const { keep, refused, taken } = useViews()
const open = ref(false)
const name = ref('')
const saved = ref('')
watch(open, () => {
  taken.value = false
  refused.value = saved.value = ''
})

/** The address of what is asked, without the sheet that is open beside it. */
function address() {
  const url = new URL(route.fullPath, location.origin)
  url.searchParams.delete('order')
  return url.pathname + url.search
}

async function save(replace: boolean) {
  const text = name.value.trim()
  if (text && (await keep(text, { address: address(), sentence }, replace))) saved.value = text
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <v-btn v-bind="menu" :prepend-icon="mdiBookmarkPlusOutline" aria-haspopup="dialog" data-test="save-view"
        >Save view</v-btn
      >
    </template>
    <v-card border width="320" max-width="100%" role="dialog" aria-label="Save view">
      <v-card-text v-if="saved">
        <p role="status" data-test="view-saved">
          Saved as <router-link :to="`/views/${encodeURIComponent(saved)}`">{{ saved }}</router-link>.
        </p>
      </v-card-text>
      <form v-else @submit.prevent="save(false)">
        <v-card-text>
          <v-text-field
            v-model="name"
            label="Name of the view"
            autofocus
            maxlength="100"
            :error-messages="refused"
            :aria-invalid="refused !== ''"
            data-test="view-name"
            @update:model-value="taken = false"
          />
        </v-card-text>
        <v-card-actions>
          <v-btn v-if="taken" variant="flat" data-test="replace-view" @click="save(true)">Overwrite it</v-btn>
          <v-btn v-else type="submit" variant="flat" data-test="keep-view" :disabled="!name.trim()"
            >Save</v-btn
          >
        </v-card-actions>
      </form>
    </v-card>
  </v-menu>
</template>
