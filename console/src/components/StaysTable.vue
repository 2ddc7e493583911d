<script setup lang="ts">
import type { StatusStay, StatusStays } from '@/api/client'
import { length, withWeekday } from '@/format'

// Stays, one a row; each opens its order.
const { stays } = defineProps<{ stays: StatusStays }>()
const emit = defineEmits<{ open: [number: string] }>()

const until = (s: StatusStay) => (s.until ? withWeekday(s.until) : s.running ? 'still there' : 'the end')
</script>

<template>
  <div class="scroll panel" tabindex="0" role="region" aria-label="Stays">
    <table class="plain" data-test="stays">
      <thead>
        <tr>
          <th scope="col">order</th>
          <th class="number" scope="col">stay</th>
          <th scope="col">status</th>
          <th scope="col">from</th>
          <th scope="col">last seen</th>
          <th scope="col">until</th>
          <th class="number" scope="col">{{ stays.heading }}</th>
          <th scope="col" />
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in stays.stays" :key="`${s.number} ${s.sequence}`">
          <td>
            <button type="button" class="link" @click="emit('open', s.number)">{{ s.number }}</button>
          </td>
          <td class="number">{{ s.sequence }}</td>
          <td>{{ s.status }}</td>
          <td>{{ withWeekday(s.from) }}</td>
          <td>{{ s.last_seen }}</td>
          <td>{{ until(s) }}</td>
          <td class="number">{{ length(s.length) }}</td>
          <td class="amber">
            {{
              [s.returned ? 'came back' : '', s.ambiguous ? 'two records of one moment' : '']
                .filter(Boolean)
                .join('; ')
            }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
