<script setup lang="ts">
import type { Document } from '@/api/document'
import AnswerFrame from '@/components/AnswerFrame.vue'
import { useAnswer } from '@/composables/useAnswer'

// What looks wrong in the records: each with its orders and what to do, and how far each date goes.
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
  />
</template>
