<script setup lang="ts">
import { ref } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { Part } from '@/api/document'
import { count } from '@/format'

// What has to be said below a part of an answer: the lines that add up, and the notes.
const { part } = defineProps<{
  part: Part
  /** The page of the orders behind a number. */
  to: (address: string | undefined) => RouteLocationRaw | undefined
}>()

/** The notes that matter most are the first; the rest is shown on demand, and on paper. */
const most = 3
const all = ref(false)

/** The signs between terms, which amounts can have as well. */
const sign = (amount: string | undefined) => (amount?.startsWith('-') ? ' − ' : ' + ')
const bare = (term: { amount?: string; orders: number }) =>
  (term.amount ?? count(term.orders)).replace('-', '')
</script>

<template>
  <div class="below">
    <p v-for="(line, l) in part.lines" :key="l" :data-test="l === 0 ? 'reconciliation' : 'placement'">
      {{ line.text.split(' = ')[0] }}{{ line.terms.length > 1 ? ' =' : '' }}
      <template v-for="(term, t) in line.terms.slice(1)" :key="t"
        >{{ t > 0 ? sign(term.amount) : ''
        }}<router-link v-if="term.behind" :to="to(term.behind) ?? {}" :data-test="`term-${l}-${t}`">{{
          bare(term)
        }}</router-link
        ><template v-else>{{ bare(term) }}</template> {{ term.label }}</template
      >
    </p>
    <p
      v-for="(note, n) in part.notes"
      :key="note.code"
      class="amber"
      :class="{ 'on-paper': n >= most && !all }"
      :data-test="`says-${note.code}`"
    >
      <router-link v-if="note.behind" :data-test="`note-${note.code}`" :to="to(note.behind) ?? {}">{{
        note.text
      }}</router-link>
      <template v-else>{{ note.text }}</template>
    </p>
    <p v-if="part.notes.length > most">
      <v-btn size="small" :aria-expanded="all" data-test="more-notes" @click="all = !all">{{
        all ? 'Fewer notes' : `${part.notes.length - most} more`
      }}</v-btn>
    </p>
  </div>
</template>

<style scoped>
.below {
  margin: 18px 4px 36px;
  display: grid;
  gap: 8px;
}
</style>
