<script setup lang="ts">
import { mdiArrowUp, mdiClose } from '@mdi/js'
import ConditionPicker from '@/components/ConditionPicker.vue'
import StateNotice from '@/components/StateNotice.vue'
import { moved } from '@/columns'
import { useLabels } from '@/composables/useLabels'
import { count } from '@/format'
import type { Label } from '@/api/client'

// Decisions written beside orders, by rule: made here, tried on the orders before they are kept, and used as fields.
const { labels, problem, retry, draft, tried, refused, taken, isWhole, write, save, remove } = useLabels()

/** Texts that no condition of the list gives. */
const ends = {
  rest: 'in all other cases',
  missing: 'where a condition lacks what it asks about, and cannot be decided yet',
} as const

/** The orders that have a text of a label. */
function behind(label: Label, text: string) {
  const field = `field(${JSON.stringify(label.name)})`
  const where = text ? `${field} == ${JSON.stringify(text)}` : `${field} == null`
  return {
    path: '/orders',
    query: { where, columns: `number, customer, site, ordered, shipped, ${label.name}` },
  }
}

function countOf(label: Label, text: string): number {
  return label.counts.find((c) => c.text === text)?.orders ?? 0
}

/** The texts of a label with what decides them, in the order in which they are asked. */
function texts(label: Label) {
  const { rules, rest, missing } = label.definition
  const seen = new Set<string>()
  const all = [
    ...rules,
    ...(rest ? [{ text: rest, where: 'in all other cases' }] : []),
    ...(missing ? [{ text: missing, where: 'where it cannot be decided yet' }] : []),
  ].map((t) => {
    const again = seen.has(t.text)
    seen.add(t.text)
    return { ...t, again }
  })
  const none = countOf(label, '')
  return none > 0 ? [...all, { text: '', where: 'without a text', again: false }] : all
}
</script>

<template>
  <div>
    <h1>Labels: categories of orders, by rule</h1>
    <StateNotice v-if="problem" :problem="problem" @retry="retry" />
    <template v-else-if="labels">
      <section v-for="l in labels.labels" :key="l.name" class="panel label" :data-test="`label-${l.name}`">
        <h2>
          {{ l.name }}
          <v-btn size="small" :data-test="`change-${l.name}`" @click="write(l)">Change</v-btn>
          <v-btn size="small" :data-test="`delete-${l.name}`" @click="remove(l.name)">Delete</v-btn>
        </h2>
        <p v-if="l.problem" class="amber" role="alert">It cannot be decided: {{ l.problem }}</p>
        <v-table density="compact">
          <thead>
            <tr>
              <th scope="col">text</th>
              <th scope="col">where</th>
              <th scope="col" class="number">orders</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(t, i) in texts(l)" :key="i">
              <td>{{ t.text || '(none)' }}</td>
              <td class="where">{{ t.where }}</td>
              <td class="number">
                <span v-if="t.again" class="muted">above</span>
                <router-link v-else-if="!l.problem" :to="behind(l, t.text)">{{
                  count(countOf(l, t.text))
                }}</router-link>
              </td>
            </tr>
          </tbody>
        </v-table>
      </section>
      <p v-if="labels.labels.length === 0" class="muted">
        There are none yet. A label is an ordered list of conditions, each with a text: paid, part paid, not
        paid.
      </p>
      <v-form class="panel label" data-test="label-form" @submit.prevent="save(false)">
        <h2>{{ draft.was ? `Change ${draft.was}` : 'A new label' }}</h2>
        <v-text-field
          v-model="draft.name"
          class="name"
          label="Name"
          maxlength="60"
          placeholder="payment"
          data-test="label-name"
        />
        <ol>
          <li v-for="(rule, i) in draft.definition.rules" :key="i">
            <v-text-field
              v-model="rule.text"
              label="Text"
              maxlength="200"
              placeholder="paid"
              :aria-label="`Text ${i + 1}`"
              :data-test="`rule-text-${i}`"
            />
            where
            <v-text-field
              v-model="rule.where"
              class="condition"
              label="Condition, in CEL"
              maxlength="10000"
              spellcheck="false"
              placeholder="paid != null"
              :aria-label="`Condition ${i + 1}, in CEL`"
              :data-test="`rule-where-${i}`"
            />
            <ConditionPicker :text="''" words="pick" @pick="rule.where = $event" />
            <v-btn
              :icon="mdiArrowUp"
              size="small"
              :disabled="i === 0"
              :aria-label="`Condition ${i + 1} earlier`"
              @click="draft.definition.rules = moved(draft.definition.rules, i, i - 1)"
            />
            <v-btn
              :icon="mdiClose"
              size="small"
              :disabled="draft.definition.rules.length === 1"
              :aria-label="`Without condition ${i + 1}`"
              @click="draft.definition.rules.splice(i, 1)"
            />
            <b v-if="tried" class="tried">{{ count(countOf(tried, rule.text)) }}</b>
          </li>
          <li v-for="(words, end) in ends" :key="end">
            <v-text-field
              v-model="draft.definition[end]"
              label="Text"
              maxlength="200"
              :aria-label="`Text ${words}`"
              :data-test="`rule-${end}`"
            />
            <span class="words">{{ words }}</span>
            <b v-if="tried && draft.definition[end]" class="tried">{{
              count(countOf(tried, draft.definition[end] ?? ''))
            }}</b>
          </li>
        </ol>
        <p v-if="tried" data-test="tried">
          Tried on all orders:
          <template v-for="(c, i) in tried.counts" :key="c.text"
            ><template v-if="i > 0">, </template><b>{{ count(c.orders) }}</b>
            {{ c.text || 'without a text' }}</template
          >. Nothing is saved yet.
        </p>
        <p v-if="refused" class="amber" role="alert" data-test="label-refused">{{ refused }}</p>
        <p class="buttons">
          <v-btn data-test="add-rule" @click="draft.definition.rules.push({ where: '', text: '' })"
            >One more condition</v-btn
          >
          <v-btn v-if="taken" variant="flat" data-test="replace-label" @click="save(true)"
            >Overwrite it</v-btn
          >
          <v-btn v-else type="submit" variant="flat" :disabled="!isWhole || !tried" data-test="save-label"
            >Save</v-btn
          >
          <v-btn v-if="draft.was" @click="write()">Cancel</v-btn>
        </p>
      </v-form>
    </template>
    <v-skeleton-loader v-else boilerplate type="table-row@4" />
  </div>
</template>

<style scoped>
.label {
  padding: 16px 20px;
  margin-bottom: 16px;
}

h2 {
  margin: 0 0 8px;
  font-size: 1.05rem;
}

.where {
  white-space: normal !important;
  overflow-wrap: anywhere;
  width: 60%;
}

.name {
  max-width: 20rem;
}

ol {
  list-style: none;
  padding: 0;
  margin: 12px 0;
}

li {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  padding: 3px 0;
}

li .v-input {
  flex: 0 1 12rem;
}

.words {
  flex: 1;
}

li .condition {
  flex: 1 1 14rem;
  font-family: ui-monospace, monospace;
}

.tried {
  min-width: 50px;
  text-align: right;
  margin-left: auto;
}

.buttons {
  display: flex;
  gap: 20px;
  align-items: center;
  margin-top: 12px;
}
</style>
