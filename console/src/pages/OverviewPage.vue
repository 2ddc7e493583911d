<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue'
import type { Overview } from '@/api/client'
import OverviewList from '@/components/OverviewList.vue'
import StateNotice from '@/components/StateNotice.vue'
import TrendBars from '@/components/TrendBars.vue'
import { useAnswer } from '@/composables/useAnswer'
import { useTargets } from '@/composables/useTargets'
import { monthName } from '@/format'

// The last full month beside the one before: each number under its own question, its trend, and what needs a look today.
const { answer, problem, loading, retry } = useAnswer<Overview>(() => ({ path: '/overview', query: {} }))
// Its field is not fetched before the figures.
const TargetMenu = defineAsyncComponent(() => import('@/components/TargetMenu.vue'))

const { targets, set } = useTargets()

/** What is late comes first. */
const late = computed(() => answer.value?.lists.filter((l) => l.code === 'today') ?? [])
const others = computed(() => answer.value?.lists.filter((l) => l.code !== 'today') ?? [])
const figures = computed(() => answer.value?.figures.filter((f) => f.code !== 'quality') ?? [])

/** Months by their names in the sentences of people. */
const named = (text: string) => text.replace(/\b\d{4}-\d\d\b(?!-)/g, monthName)
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="answer">
      <h1 data-test="sentence">{{ named(answer.sentence) }}</h1>
      <p v-if="answer.figures.length === 0" class="panel none">
        <router-link to="/import">Import the records</router-link>, and what they say of the last month stands
        here.
      </p>
      <ul class="cards">
        <li v-for="l in late" :key="l.code"><OverviewList :list="l" /></li>
        <li v-for="f in figures" :key="f.code">
          <v-card border height="100%" :data-test="`overview-${f.code}`">
            <v-card-text class="figure">
              <router-link :to="f.address" class="way">
                <span class="label">{{ f.label }}</span>
                <span class="now">{{ f.text || 'none' }}</span>
              </router-link>
              <p>
                {{ f.behind
                }}<template v-if="f.change"
                  >; <b>{{ named(f.change) }}</b></template
                ><template v-if="f.before_behind"> ({{ f.before }}, {{ f.before_behind }})</template>
              </p>
              <TrendBars
                v-if="f.trend && f.trend.length > 1"
                :months="f.trend"
                :label="f.label"
                :target="targets[f.code]"
              />
              <p v-if="f.remark" class="amber">{{ f.remark }}</p>
              <p class="muted asked">{{ named(f.sentence) }}</p>
              <div class="target">
                <TargetMenu
                  v-if="f.trend"
                  :code="f.code"
                  :label="f.label"
                  :model-value="targets[f.code]"
                  @update:model-value="set(f.code, $event)"
                />
              </div>
            </v-card-text>
          </v-card>
        </li>
        <li v-for="l in others" :key="l.code"><OverviewList :list="l" /></li>
      </ul>
    </template>
    <p v-else class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.cards {
  list-style: none;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(300px, 100%), 1fr));
  gap: 16px;
}

.figure {
  height: 100%;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.way {
  color: inherit !important;
  text-decoration: none;
  display: grid;
  gap: 2px;
}

.way:hover .label {
  text-decoration: underline;
}

.label {
  font-size: 1rem;
  font-weight: 550;
}

.now {
  font-size: 2rem;
  line-height: 1.25;
  font-weight: 600;
  color: rgb(var(--v-theme-primary));
}

.asked {
  margin-top: auto;
  padding-top: 8px;
  border-top: 1px solid rgb(var(--v-theme-line));
  font-size: 0.84rem;
}

.target {
  min-height: 28px;
  margin-left: -8px;
}

.none {
  padding: 18px;
}
</style>
