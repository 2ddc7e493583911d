<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { askedOf, type Document, type Part } from '@/api/document'
import {
  leftOut,
  type PictureName,
  pictureNames,
  pictureOf,
  picturesOf,
  recordsBehind,
} from '@/charts/pictures'
import AlsoAsk from '@/components/AlsoAsk.vue'
import AnswerFrame from '@/components/AnswerFrame.vue'
import ChartFrame from '@/components/ChartFrame.vue'
import TabRow from '@/components/TabRow.vue'
import { useAddress } from '@/composables/useAddress'
import { useAnswer } from '@/composables/useAnswer'
import { useTokens } from '@/composables/useTokens'
import { parameters, type Question, questionOf } from '@/question'

const route = useRoute()
const { text, some, to } = useAddress()
const question = computed(() => questionOf(route.query))
const asked = computed(() => ({
  path: '/took',
  query: { ...parameters(question.value), ...some(['show', 'with_running', 'keep']) },
}))
const { answer, problem, loading, retry } = useAnswer<Document>(asked)

const tokens = useTokens()
const sentence = computed(() => answer.value?.sentence.map((w) => w.text).join('') ?? '')
/** The unit as the sentence has it. */
const unit = computed(() => answer.value?.sentence.find((w) => w.slot === 'in')?.text ?? '')
const show = computed(() => text('show')?.split(',') ?? ['mean', 'median', 'p90', 'min', 'max'])

/** The picture of a part that is shown: the one that was picked, where the answer has it. */
function shownOf(part: Part): PictureName | undefined {
  const names = picturesOf(part)
  return names.find((name) => name === text('picture')) ?? names[0]
}

/** What the frame of a part's picture needs. */
function framed(name: PictureName, answer: Document, part: Part) {
  return {
    ...pictureOf(name, answer, part, question.value, unit.value, tokens.value),
    sentence: part.title ? `${sentence.value} (${part.title})` : sentence.value,
    rows: recordsBehind(name, part),
    below: part.lines.map((l) => l.text),
    tokens: tokens.value,
  }
}

function ask(changed: Question) {
  const before = Object.fromEntries(Object.keys(question.value).map((name) => [name, undefined]))
  to({ ...before, ...parameters(changed) })
}
</script>

<template>
  <AnswerFrame
    :document="answer"
    :problem="problem"
    :loading="loading"
    :question="question"
    :asked="asked"
    label="Lengths"
    @change="ask"
    @retry="retry"
  >
    <template #tools>
      <AlsoAsk
        v-if="answer"
        :answer="{ ...askedOf(answer, question), show }"
        :question="question"
        :unit="unit"
        :running="text('with_running') === 'true'"
        :keeping="text('keep') !== undefined"
        @change="ask"
        @running="to({ with_running: $event ? 'true' : undefined })"
        @keeping="to({ keep: $event ? '80,90,95' : undefined })"
        @show="to({ show: $event })"
      />
    </template>
    <template #picture="{ part }">
      <TabRow
        v-if="picturesOf(part).length > 1"
        :tabs="Object.fromEntries(picturesOf(part).map((name) => [name, pictureNames[name]]))"
        :shown="shownOf(part) ?? ''"
        label="Picture"
        kind="picture"
        @show="to({ picture: $event })"
      />
      <template v-for="name in [shownOf(part)]" :key="name ?? 'none'">
        <ChartFrame v-if="name && answer" v-bind="framed(name, answer, part)" />
        <p v-else class="panel empty">No order is counted here; the line below says what became of each.</p>
        <p v-if="name && leftOut(name, part)" class="amber room">{{ leftOut(name, part) }}</p>
      </template>
    </template>
  </AnswerFrame>
</template>

<style scoped>
.room {
  margin: -12px 4px 14px;
  font-size: 0.85rem;
}

.empty {
  padding: 28px;
  margin-bottom: 20px;
}
</style>
