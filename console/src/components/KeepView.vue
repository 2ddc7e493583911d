<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useViews } from '@/composables/useViews'

// Keeps what the page asks under a name. A name that is taken asks before anything is put away.
const { sentence } = defineProps<{ sentence: string }>()

const route = useRoute()
const { keep, refused, taken } = useViews()
const open = ref(false)
const name = ref('')
const kept = ref('')
const field = ref<HTMLInputElement>()
watch(open, async (isOpen) => {
  taken.value = false
  refused.value = kept.value = ''
  if (!isOpen) return
  await nextTick()
  field.value?.focus()
})

/** The address of what is asked, without the sheet that is open beside it. */
function address() {
  const url = new URL(route.fullPath, location.origin)
  url.searchParams.delete('order')
  return url.pathname + url.search
}

async function save(replace: boolean) {
  const text = name.value.trim()
  if (text && (await keep(text, { address: address(), sentence }, replace))) kept.value = text
}
</script>

<template>
  <v-menu v-model="open" :transition="false" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button" class="link" data-test="keep">Keep</button>
    </template>
    <form class="panel" @submit.prevent="save(false)">
      <p v-if="kept" role="status" data-test="kept">
        Kept as <router-link :to="`/views/${encodeURIComponent(kept)}`">{{ kept }}</router-link>.
      </p>
      <template v-else>
        <label
          >Keep the question under a name
          <input
            ref="field"
            v-model="name"
            class="field"
            type="text"
            maxlength="100"
            data-test="view-name"
            @input="taken = false"
          />
        </label>
        <p v-if="refused" class="amber" role="alert">{{ refused }}</p>
        <button v-if="taken" type="button" class="save" data-test="replace-view" @click="save(true)">
          Replace it
        </button>
        <button v-else type="submit" class="save" data-test="keep-view" :disabled="!name.trim()">Keep</button>
      </template>
    </form>
  </v-menu>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding: 14px 16px;
  font-size: 0.9rem;
  width: min(320px, calc(100vw - 32px));
}

label,
.field {
  display: block;
  width: 100%;
}

.field {
  margin-top: 4px;
}
</style>
