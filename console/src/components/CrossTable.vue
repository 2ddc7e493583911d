<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Group, Took, TookPart } from '@/api/client'
import { figure, keyName, stepName } from '@/format'
import { ordersBehind, type Question } from '@/question'
import LengthCount from './LengthCount.vue'

// Two groupings as rows and columns: one statistic in each cell above its number of lengths, shaded from short to long.
const { answer, part, question } = defineProps<{ answer: Took; part: TookPart; question: Question }>()

const shown = ref(answer.show[0] ?? '')
watch(
  () => answer.show,
  (show) => {
    if (!show.includes(shown.value)) shown.value = show[0] ?? ''
  },
)
const at = computed(() => Math.max(0, answer.show.indexOf(shown.value)))
const valueOf = (g: Group) => g.figures[at.value] ?? null

const cells = computed(() => new Map(part.groups.map((g) => [JSON.stringify(g.keys), g])))
const cell = (row: Group, column: Group) => cells.value.get(JSON.stringify([row.keys[0], column.keys[0]]))

const range = computed(() => {
  const values = part.groups.flatMap((g) => valueOf(g) ?? [])
  return { low: Math.min(...values), high: Math.max(...values) }
})

/** Short is teal, long is amber, and what lies between is paper; the value stands in the cell. */
function shade(g: Group | undefined): string | undefined {
  const value = g && valueOf(g)
  const { low, high } = range.value
  if (value === null || value === undefined || high <= low) return undefined
  const place = (value - low) / (high - low)
  const colour = place < 0.5 ? 'primary' : 'secondary'
  const part = Math.round(Math.abs(place - 0.5) * 2 * 38)
  return `color-mix(in srgb, rgb(var(--v-theme-${colour})) ${part}%, rgb(var(--v-theme-surface)))`
}

const along = (g: Group, axis: 0 | 1) =>
  ordersBehind({ ...question, by: answer.by[axis] }, { state: 'counted', group: g.keys })
const behind = (g: Group) => ordersBehind(question, { state: 'counted', group: g.keys })
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Rows and columns">
    <p class="pick">
      <label
        >Each cell:
        <select v-model="shown" class="field" data-test="cross-statistic">
          <option v-for="name in answer.show" :key="name" :value="name">{{ name.replace('-', ' ') }}</option>
        </select>
      </label>
      <span class="muted">{{ answer.heading }}; below it n. Teal is short, amber long.</span>
    </p>
    <table class="plain crossed" data-test="cross">
      <thead>
        <tr>
          <th scope="col">{{ answer.by[0] }} by {{ answer.by[1] }}</th>
          <th v-for="c in part.columns" :key="c.keys[0]" class="number" scope="col">
            {{ stepName(c, c.keys[0] ?? '') }}
          </th>
          <th class="number" scope="col">all</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in part.rows" :key="r.keys[0]">
          <th scope="row">{{ stepName(r, r.keys[0] ?? '') }}</th>
          <td
            v-for="c in part.columns"
            :key="c.keys[0]"
            class="number"
            :style="{ background: shade(cell(r, c)) }"
          >
            <template v-if="cell(r, c)">
              {{ figure(shown, valueOf(cell(r, c)!)) }}
              <small><LengthCount :group="cell(r, c)!" :few="answer.few" :to="behind(cell(r, c)!)" /></small>
            </template>
          </td>
          <td class="number all">
            {{ figure(shown, valueOf(r)) }}
            <small><LengthCount :group="r" :few="answer.few" :to="along(r, 0)" /></small>
          </td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <td>all</td>
          <td v-for="c in part.columns" :key="keyName(c.keys[0] ?? '')" class="number">
            {{ figure(shown, valueOf(c)) }}
            <small><LengthCount :group="c" :few="answer.few" :to="along(c, 1)" /></small>
          </td>
          <td class="number">
            {{ figure(shown, valueOf(part.total)) }}
            <small><LengthCount :group="part.total" :few="answer.few" :to="behind(part.total)" /></small>
          </td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>

<style scoped>
.pick {
  padding: 10px 12px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  font-size: 0.9rem;
}

small {
  display: block;
  font-weight: 400;
  font-size: 0.78rem;
}

.all {
  font-weight: 600;
}
</style>
