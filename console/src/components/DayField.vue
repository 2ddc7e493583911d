<script setup lang="ts">
import { mdiCalendarBlankOutline } from '@mdi/js'
import { ref, watch } from 'vue'
import { faultOfDay } from '@/day'

// A day, typed as 2026-03-02 or picked in a calendar.
const day = defineModel<string>({ required: true })
const { label, first, last } = defineProps<{
  label: string
  /** The days that can be picked; any where they are not given. */
  first?: string
  last?: string
}>()

const typed = ref(day.value)
const open = ref(false)
watch(day, (now) => (typed.value = now))

const fault = (text: string) => faultOfDay(text.trim(), first, last) ?? true

function take() {
  const text = typed.value.trim()
  if (text === '' || fault(text) === true) day.value = text
}
</script>

<template>
  <v-text-field
    v-model="typed"
    :label="label"
    :rules="[(text: string) => text.trim() === '' || fault(text)]"
    :aria-invalid="typed.trim() !== '' && fault(typed) !== true"
    validate-on="blur"
    placeholder="2026-03-02"
    autocomplete="off"
    @change="take"
    @keydown.enter="take"
  >
    <template #append-inner>
      <v-menu v-model="open" :close-on-content-click="false" location="bottom end">
        <template #activator="{ props: button }">
          <v-btn
            v-bind="button"
            :icon="mdiCalendarBlankOutline"
            :aria-label="`Pick a day for ${label}`"
            aria-haspopup="dialog"
            size="small"
            density="comfortable"
          />
        </template>
        <v-date-picker
          :model-value="typed && fault(typed) === true ? typed : undefined"
          :min="first"
          :max="last"
          role="dialog"
          :aria-label="label"
          hide-header
          show-adjacent-months
          first-day-of-week="1"
          @update:model-value="((day = String($event)), (open = false))"
        />
      </v-menu>
    </template>
  </v-text-field>
</template>
