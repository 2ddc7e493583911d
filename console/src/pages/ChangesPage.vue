<script setup lang="ts">
import { computed } from 'vue'
import type { Loads } from '@/api/client'
import type { Document } from '@/api/document'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChoiceField from '@/components/ChoiceField.vue'
import OrderSheet from '@/components/OrderSheet.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'

// What became of orders since an earlier load.
const { text, to, closeOrder } = useAddress()
const { answer: loads } = useAnswer<Loads>(() => ({ path: '/loads', query: {} }))
const choices = computed(() =>
  Object.fromEntries(
    (loads.value?.loads ?? [])
      .filter((l) => !l.undone_at)
      .slice(1)
      .map((l) => [String(l.number), `load ${l.number} of ${l.loaded_at.slice(0, 16).replace('T', ' ')}`]),
  ),
)
const since = computed(
  () => text('since') ?? Object.keys(choices.value).sort((a, b) => Number(b) - Number(a))[0] ?? '',
)
const asked = computed(() => ({ path: '/changes', query: { since: since.value } }))
const { answer, problem, loading, retry } = useAnswer<Document>(() => (since.value ? asked.value : undefined))
</script>

<template>
  <div v-if="loads && !since">
    <h1 data-test="sentence">What changed in the orders?</h1>
    <p class="muted">There is one load so far; what the next one changes will stand here.</p>
  </div>
  <AnswerFrame
    v-else
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="{}"
    fixed
    :asked="asked"
    label="Changes"
    @retry="retry"
    @open="to({ order: $event })"
  >
    <template #tools>
      <ChoiceField
        class="since"
        :model-value="since"
        label="Since"
        :choices="choices"
        data-test="since"
        @update:model-value="to({ since: $event })"
      />
    </template>
  </AnswerFrame>
  <OrderSheet
    v-if="text('order')"
    :key="text('order')"
    :number="text('order') ?? ''"
    :question="{}"
    @close="closeOrder"
  />
</template>

<style scoped>
.since {
  flex: 0 1 280px;
}
</style>
