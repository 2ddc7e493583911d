<script setup lang="ts" generic="Name extends string">
import { computed } from 'vue'
import { vOneRole } from '@/oneRole'

// One of a few choices, picked from a list.
const chosen = defineModel<Name>({ required: true })
const { choices, label } = defineProps<{
  label: string
  /** The choices; by their words where these are not the choices themselves. */
  choices: readonly Name[] | Readonly<Partial<Record<Name, string>>>
}>()

const items = computed(() =>
  Array.isArray(choices)
    ? choices.map((value: Name) => ({ value, title: value as string }))
    : Object.entries(choices).map(([value, title]) => ({ value, title: String(title) })),
)
</script>

<template>
  <v-select
    v-one-role
    :label="label"
    :items="items"
    :model-value="chosen"
    @update:model-value="chosen = $event"
  />
</template>
