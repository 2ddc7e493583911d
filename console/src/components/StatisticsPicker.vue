<script setup lang="ts">
import { computed, ref } from 'vue'

// Picks the statistics that tables show; the first says which group comes first.
const { show } = defineProps<{ show: readonly string[] }>()
const emit = defineEmits<{ pick: [names: string] }>()

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
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <v-btn v-bind="menu" aria-haspopup="dialog" data-test="statistics">Statistics</v-btn>
    </template>
    <v-card border role="dialog" aria-label="Statistics">
      <v-card-text>
        <v-checkbox
          v-for="name in choices"
          :key="name"
          :model-value="show.includes(name)"
          :label="name.replace('-', ' ')"
          :data-test="`statistic-${name}`"
          @update:model-value="toggle(name)"
        />
        <v-text-field
          v-model="typed"
          label="another percentile"
          inputmode="decimal"
          placeholder="97.5"
          data-test="type-percentile"
          @keydown.enter.prevent="add"
        />
      </v-card-text>
    </v-card>
  </v-menu>
</template>
