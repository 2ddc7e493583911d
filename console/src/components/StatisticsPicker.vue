<script setup lang="ts">
import { computed, ref } from 'vue'

// Picks the statistics that tables show; the first says which group comes first.
const { show } = defineProps<{ show: readonly string[] }>()
const emit = defineEmits<{ pick: [names: string] }>()

const open = ref(false)
const typed = ref('')
const offered = ['mean', 'median', 'p75', 'p90', 'p95', 'min', 'max', 'standard-deviation']
const choices = computed(() => [...offered, ...show.filter((name) => !offered.includes(name))])

function toggle(name: string) {
  const names = show.includes(name) ? show.filter((other) => other !== name) : [...show, name]
  if (names.length > 0) emit('pick', names.join(','))
}

/** A percentile that is typed: 97.5, or p97.5. */
function add() {
  const percent = Number(typed.value.trim().replace(/^p/, ''))
  const name = `p${percent}`
  if (typed.value.trim() === '' || !(percent >= 0 && percent <= 100)) return
  typed.value = ''
  if (!show.includes(name)) emit('pick', [...show, name].join(','))
}
</script>

<template>
  <v-menu v-model="open" :transition="false" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button v-bind="menu" type="button" class="link" data-test="statistics">Statistics</button>
    </template>
    <div class="panel list">
      <label v-for="name in choices" :key="name">
        <input
          type="checkbox"
          :checked="show.includes(name)"
          :data-test="`statistic-${name}`"
          @change="toggle(name)"
        />
        {{ name.replace('-', ' ') }}
      </label>
      <label
        >another percentile
        <input
          v-model="typed"
          class="field"
          inputmode="decimal"
          placeholder="97.5"
          data-test="type-percentile"
          @keydown.enter.prevent="add"
        />
      </label>
    </div>
  </v-menu>
</template>

<style scoped>
.list {
  padding: 12px 16px;
  font-size: 0.9rem;
  display: grid;
  gap: 6px;
}

.field {
  width: 72px;
}
</style>
