<script setup lang="ts">
import { mdiBullseyeArrow } from '@mdi/js'

// Sets the target of a figure of the overview.
const target = defineModel<number>()
const { code, label } = defineProps<{ code: string; label: string }>()

function set(text: string) {
  const value = Number(text.trim().replace('%', ''))
  target.value = text.trim() === '' || Number.isNaN(value) ? undefined : value
}
</script>

<template>
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <v-btn
        v-bind="menu"
        size="small"
        :prepend-icon="mdiBullseyeArrow"
        aria-haspopup="dialog"
        :data-test="`target-${code}`"
        >{{ target === undefined ? 'Set a target' : `Target ${target}` }}</v-btn
      >
    </template>
    <v-card border width="220" role="dialog" :aria-label="`Target for ${label}`">
      <v-card-text>
        <v-text-field
          :model-value="target ?? ''"
          label="Target"
          autofocus
          inputmode="decimal"
          hint="empty: none"
          persistent-hint
          :data-test="`target-value-${code}`"
          @change="set($event.target.value)"
        />
      </v-card-text>
    </v-card>
  </v-menu>
</template>
