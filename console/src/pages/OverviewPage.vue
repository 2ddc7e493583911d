<script setup lang="ts">
import type { Overview } from '@/api/client'
import StateNotice from '@/components/StateNotice.vue'
import { useAnswer } from '@/composables/useAnswer'

// The last full month beside the one before: each number under its own question, and a way to ask it again.
const { answer, problem, loading, retry } = useAnswer<Overview>(() => ({ path: '/overview', query: {} }))
</script>

<template>
  <div :aria-busy="loading">
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="answer">
      <h1 data-test="sentence">{{ answer.sentence }}</h1>
      <p v-if="answer.figures.length === 0" class="panel none">
        <router-link to="/import">Import the records</router-link>, and what they say of the last month stands
        here.
      </p>
      <ul class="figures">
        <li v-for="f in answer.figures" :key="f.code" class="panel" :data-test="`overview-${f.code}`">
          <router-link :to="f.address" class="way">
            <span class="label">{{ f.label }}</span>
            <span class="now">{{ f.text || 'nothing to tell' }}</span>
          </router-link>
          <p class="behind">{{ f.behind }}</p>
          <p v-if="f.before !== undefined" class="before">
            {{ answer.before }}: <b>{{ f.before || 'nothing to tell' }}</b>
            <template v-if="f.before_behind">, {{ f.before_behind }}</template>
            <span v-if="f.change" class="change">{{ f.change }}</span>
          </p>
          <p v-if="f.remark" class="amber">{{ f.remark }}</p>
          <p class="muted asked">{{ f.sentence }}</p>
        </li>
      </ul>
    </template>
    <p v-else class="muted">Asking …</p>
  </div>
</template>

<style scoped>
.figures {
  list-style: none;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 18px;
}

li {
  padding: 18px 20px;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.way {
  color: inherit;
  text-decoration: none;
  display: grid;
  gap: 2px;
}

.way:hover .label {
  text-decoration: underline;
}

.label {
  font-weight: 550;
}

.now {
  font-size: 2.1rem;
  line-height: 1.25;
  font-weight: 600;
  color: rgb(var(--v-theme-primary));
}

.behind,
.before {
  font-size: 0.94rem;
}

.change {
  margin-left: 8px;
  padding: 0 8px;
  border: 1px solid rgb(var(--v-theme-line));
  border-radius: 999px;
  white-space: nowrap;
}

.asked {
  margin-top: auto;
  padding-top: 8px;
  border-top: 1px solid rgb(var(--v-theme-line));
  font-size: 0.84rem;
}

.none {
  padding: 18px;
}
</style>
