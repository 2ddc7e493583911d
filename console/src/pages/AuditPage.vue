<script setup lang="ts">
import type { Document } from '@/api/document'
import AnswerFrame from '@/components/AnswerFrame.vue'
import PageTurner from '@/components/PageTurner.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'

// Who changed what, the latest first.
const pageSize = 50
const { to, offset } = useAddress()
const asked = () => ({ path: '/audit', query: { offset: offset.value, limit: pageSize } })
const { answer, problem, loading, retry } = useAnswer<Document>(asked)
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="{}"
    fixed
    :asked="asked()"
    label="Changes"
    @retry="retry"
  />
  <PageTurner
    v-if="answer"
    :offset="offset"
    :size="pageSize"
    :all="answer.parts[0]?.tables[0]?.all ?? 0"
    @turn="to({ offset: $event || undefined })"
  />
</template>
