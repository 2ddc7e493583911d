<script setup lang="ts">
import { mdiCalendarBlankOutline, mdiMapMarkerPath, mdiTrayArrowDown } from '@mdi/js'
import type { Document } from '@/api/document'
import AnswerFrame from '@/components/AnswerFrame.vue'
import { useAnswer } from '@/composables/useAnswer'

// What looks wrong in the records, by what to do about it and how many orders it touches, and how far each date goes.
const asked = { path: '/quality', query: {} }
const { answer, problem, loading, retry } = useAnswer<Document>(asked)
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="{}"
    fixed
    :asked="asked"
    label="Issues"
    @retry="retry"
  >
    <template #tools>
      <v-btn to="/import" :prepend-icon="mdiTrayArrowDown">Import what is missing</v-btn>
      <v-btn to="/statuses?show=list" :prepend-icon="mdiMapMarkerPath">List of statuses</v-btn>
      <v-btn to="/calendars" :prepend-icon="mdiCalendarBlankOutline">Calendars</v-btn>
    </template>
  </AnswerFrame>
</template>
