<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed } from 'vue'
import type { FileQuestion } from '@/api/client'
import FileColumns from '@/components/FileColumns.vue'
import FileQuestions from '@/components/FileQuestions.vue'
import { questionsOf, type Look } from '@/composables/useLoad'
import { count, counted } from '@/format'

// What a file is taken for before it is imported: its rows, its columns, the first records as they will be, what is left out.
const { look, disabled } = defineProps<{ look: Look; disabled: boolean }>()
const emit = defineEmits<{
  remove: []
  answer: [question: FileQuestion, value: string]
  mean: [heading: string, meaning: string]
  plan: [heading: string, plan: boolean]
}>()

function size(n: number): string {
  return n < 1e6 ? `${count(Math.ceil(n / 1000))} kB` : `${(n / 1e6).toFixed(1)} MB`
}

const kinds = computed(() => look.load?.files.map((f) => f.kind.replace(/-/g, ' ')).join(' and '))
const rows = computed(() => {
  const sum = (what: 'new' | 'changed' | 'same' | 'set_aside') =>
    look.load?.files.reduce((n, f) => n + f[what], 0) ?? 0
  return [
    `${count(sum('new'))} new`,
    `${count(sum('changed'))} changed`,
    `${count(sum('same'))} the same`,
    `${counted(look.load?.skipped_rows ?? 0, 'row')} left out`,
    `${count(sum('set_aside'))} set aside`,
  ].join(', ')
})
</script>

<template>
  <v-card
    class="review"
    variant="outlined"
    :class="{ refused: look.refused }"
    :data-test="`look-${look.file.name}`"
  >
    <v-card-item>
      <v-card-title tag="h2">{{ look.file.name }}</v-card-title>
      <v-card-subtitle>
        {{ size(look.file.size)
        }}<template v-if="kinds"
          >, taken for <b>{{ kinds }}</b></template
        ><template v-if="look.sample">; this is what a sample of its rows says</template>
      </v-card-subtitle>
      <template #append>
        <v-btn
          :icon="mdiClose"
          variant="text"
          size="small"
          :aria-label="`Leave ${look.file.name} out`"
          :disabled="disabled"
          @click="emit('remove')"
        />
      </template>
    </v-card-item>
    <v-card-text>
      <v-alert v-if="look.refused" type="error" variant="tonal" density="compact" :text="look.refused" />
      <p v-else-if="!look.load && look.questions.length === 0" class="muted">Reading …</p>
      <FileQuestions
        v-if="questionsOf(look).length > 0"
        :look="look"
        @answer="(q, value) => emit('answer', q, value)"
      />
      <template v-if="look.load">
        <ul class="notes">
          <li v-for="n in look.load.notes" :key="n.text" data-test="file-note">
            {{ look.load.notes?.length === 1 || n.file === look.file.name ? '' : `${n.file}: ` }}{{ n.text }}
          </li>
          <li data-test="look-rows">{{ rows }}</li>
          <li v-for="u in look.load.layouts" :key="u.file" data-test="read-by">
            Read by the layout <b>{{ u.layout }}</b><template v-if="u.new"
              >; new: {{ u.new.join(', ') }}</template
            ><template v-if="u.missing">; it lacks {{ u.missing.join(', ') }}</template>
          </li>
          <li v-if="look.load.set_aside > 0" class="amber" data-test="look-aside">
            Set aside, such as row {{ look.load.rows[0]?.row }}: {{ look.load.rows[0]?.column }}
            {{ look.load.rows[0]?.value }}: {{ look.load.rows[0]?.reason }}
          </li>
        </ul>
        <FileColumns
          v-if="look.load.columns"
          :columns="look.load.columns"
          :names="look.load.meanings ?? []"
          @mean="(heading, meaning) => emit('mean', heading, meaning)"
          @plan="(heading, plan) => emit('plan', heading, plan)"
        />
        <v-expansion-panels
          v-if="look.load.first_rows || look.load.skipped"
          variant="accordion"
          multiple
          flat
        >
          <v-expansion-panel
            v-for="f in look.load.first_rows"
            :key="f.file"
            :title="`First records of ${f.file}, as they will be`"
          >
            <v-expansion-panel-text>
              <v-table density="compact" data-test="first-rows">
                <thead>
                  <tr>
                    <th v-for="(name, i) in f.columns" :key="i" scope="col">{{ name.replace(/-/g, ' ') }}</th>
                  </tr>
                </thead>
                <tbody>
                  <tr v-for="(row, r) in f.rows" :key="r">
                    <td v-for="(cell, i) in row" :key="i">{{ cell }}</td>
                  </tr>
                </tbody>
              </v-table>
            </v-expansion-panel-text>
          </v-expansion-panel>
          <v-expansion-panel
            v-if="look.load.skipped"
            :title="`${counted(look.load.skipped_rows ?? 0, 'row')} left out`"
            data-test="skipped"
          >
            <v-expansion-panel-text>
              <ul class="notes">
                <li v-for="row in look.load.skipped" :key="row.file + row.row">
                  row {{ row.row }}, {{ row.why }}: “{{ row.text }}”
                </li>
              </ul>
            </v-expansion-panel-text>
          </v-expansion-panel>
        </v-expansion-panels>
      </template>
    </v-card-text>
  </v-card>
</template>

<style scoped>
.review {
  border-color: rgb(var(--v-theme-line));
}

.refused {
  border-color: rgb(var(--v-theme-error));
}

.review :deep(.v-card-subtitle) {
  white-space: normal;
  opacity: 1;
  color: rgb(var(--v-theme-muted));
}

main .review h2 {
  margin: 0;
}

.notes {
  list-style: none;
  padding: 0;
  margin-block: 8px;
  display: grid;
  gap: 2px;
}
</style>
