<script setup lang="ts">
import type { RouteLocationRaw } from 'vue-router'
import type { AcrossFigure, AcrossPart } from '@/api/client'
import { count } from '@/format'

// Where everything lies by each date: in the period, before or after it, or on no day and why. Every date adds up to the same
// whole, and each number opens its orders. Below, the three means, and what has to be known.
const { figure, part, behind } = defineProps<{
  figure: AcrossFigure
  part: AcrossPart
  behind: (basis: string, place: string) => RouteLocationRaw
}>()
</script>

<template>
  <div class="below">
    <p v-for="table in part.tables" :key="table.basis" :data-test="`places-${table.basis}`">
      <b>{{ table.words }}:</b> {{ table.line.split(' = ')[0] }} =
      <template v-for="(p, i) in table.places" :key="p.name"
        >{{ i > 0 ? (figure.adds_up && (p.amount.value ?? 0) < 0 ? ' ' : ' + ') : ''
        }}<router-link :to="behind(table.basis, p.name)" :data-test="`place-${p.name}`">{{
          figure.adds_up ? p.amount.text : count(p.orders)
        }}</router-link>
        {{ p.label }}</template
      ><template v-if="table.uncounted > 0"
        >; of those in the period
        <router-link :to="behind(table.basis, '')" data-test="uncounted">{{
          count(table.uncounted)
        }}</router-link>
        have no such figure</template
      >
    </p>
    <p
      v-for="table in part.tables.filter((x) => x.means && x.means.days_with > 0)"
      :key="table.basis"
      class="muted"
    >
      {{ table.words }} per calendar day ({{ count(table.means?.calendar_days ?? 0) }}):
      {{ table.means?.per_calendar_day.text }}; per working day ({{ count(table.means?.working_days ?? 0) }}):
      {{ table.means?.per_working_day.text || 'none' }}; per day with any ({{
        count(table.means?.days_with ?? 0)
      }}):
      {{ table.means?.per_day_with.text }}
    </p>
    <p v-for="note in figure.notes" :key="note.code" class="amber">{{ note.text }}</p>
  </div>
</template>

<style scoped>
.below {
  margin: 16px 4px 28px;
  display: grid;
  gap: 8px;
  font-size: 0.94rem;
}
</style>
