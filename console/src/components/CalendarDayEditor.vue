<script setup lang="ts">
import { reactive, watch } from 'vue'
import type { DayEntry, DayKind } from '@/composables/useCalendar'
import { withWeekday } from '@/format'

// What one day of a calendar is: as its week has it, or an entry of its own.
const { day, entry, usualHours } = defineProps<{ day: string; entry: DayEntry; usualHours: string }>()
const emit = defineEmits<{ write: [entry: DayEntry] }>()

const kinds: { kind: DayKind; words: string }[] = [
  { kind: 'week', words: 'as the week has it' },
  { kind: 'holiday', words: 'holiday' },
  { kind: 'half day', words: 'half day' },
  { kind: 'extra working day', words: 'extra working day' },
]

/** A guess at the hours of a half day: those before the break, or the first half of a stretch. */
function halfOf(usual: string): string {
  const [first, second] = usual.split(' ')
  if (!first) return '08:00-12:00'
  if (second) return first
  const minutes = first.split('-').map((clock) => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3, 5)))
  const middle = ((minutes[0] ?? 0) + (minutes[1] ?? 0)) / 2
  const two = (n: number) => String(Math.floor(n)).padStart(2, '0')
  return `${first.slice(0, 5)}-${two(middle / 60)}:${two(middle % 60)}`
}

const edited = reactive({ ...entry, hours: entry.hours || halfOf(usualHours) })
watch(edited, (now) => emit('write', { ...now, hours: now.kind === 'half day' ? now.hours : '' }))
</script>

<template>
  <div class="editor" data-test="day-editor">
    <v-radio-group
      v-model="edited.kind"
      :label="withWeekday(day)"
      density="compact"
      hide-details
      color="primary"
    >
      <v-radio
        v-for="k in kinds"
        :key="k.kind"
        :value="k.kind"
        :label="k.words"
        :data-test="`kind-${k.kind}`"
      />
    </v-radio-group>
    <v-text-field
      v-if="edited.kind !== 'week'"
      v-model="edited.name"
      label="name"
      maxlength="200"
      data-test="day-name"
    />
    <v-text-field
      v-if="edited.kind === 'half day'"
      v-model="edited.hours"
      label="hours"
      placeholder="08:00-12:00"
      data-test="day-hours"
    />
  </div>
</template>

<style scoped>
.editor {
  display: grid;
  gap: 8px;
}
</style>
