<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { Problem, sendJSON } from '@/api/client'
import { cellOf, type Table } from '@/api/document'
import type { Proposal } from '@/placeList'
import ChoiceField from '@/components/ChoiceField.vue'

// Says where a place is that is not on the map: a load of its own, which can be undone on the page Import.
const { table } = defineProps<{ table: Table }>()
const emit = defineEmits<{ saved: [] }>()

const places = computed(() =>
  table.rows
    .map((row) => ({
      shown: cellOf(table, row, 'place').text,
      place: cellOf(table, row, 'name').text,
      country: cellOf(table, row, 'country').text,
      region: cellOf(table, row, 'region').text,
    }))
    .filter((p) => p.place),
)
const picked = ref('')
const chosen = computed(() => places.value.find((p) => p.shown === picked.value) ?? places.value[0])

/** What a list of towns proposes; it is fetched when the form is there. */
const list = shallowRef<typeof import('@/placeList')>()
void import('@/placeList').then((fetched) => (list.value = fetched))
const proposed = computed(() =>
  chosen.value ? (list.value?.proposals(chosen.value.place, chosen.value.country) ?? []) : [],
)
function take(p: Proposal) {
  north.value = String(p.latitude)
  east.value = String(p.longitude)
}

const [north, east, refused] = [ref(''), ref(''), ref('')]

/** A number of degrees; undefined where the text is none. */
function degrees(text: string, most: number): number | undefined {
  const x = Number(text.trim().replace('−', '-'))
  return text.trim() && Math.abs(x) <= most ? x : undefined
}
const latitude = computed(() => degrees(north.value, 90))
const longitude = computed(() => degrees(east.value, 180))

async function save() {
  if (!chosen.value || latitude.value === undefined || longitude.value === undefined) {
    refused.value = 'Write degrees, as 52.95 and -7.80: south and west are negative.'
    return
  }
  const { place, country, region } = chosen.value
  try {
    const at = { latitude: latitude.value, longitude: longitude.value }
    await sendJSON('PUT', '/places', {}, { places: [{ place, country, region, ...at }] })
    north.value = east.value = refused.value = picked.value = ''
    emit('saved')
  } catch (error) {
    refused.value = error instanceof Problem ? error.message : String(error)
  }
}
</script>

<template>
  <form v-if="chosen" class="where" data-test="place-form" @submit.prevent="save">
    <ChoiceField
      :model-value="chosen.shown"
      label="Say where it is"
      class="place"
      :choices="places.map((p) => p.shown)"
      data-test="place"
      @update:model-value="picked = $event"
    />
    <v-text-field v-model="north" class="short" label="Degrees north" data-test="north" />
    <v-text-field v-model="east" class="short" label="Degrees east" data-test="east" />
    <v-btn type="submit" variant="outlined" data-test="save-place">Save</v-btn>
    <span v-if="refused" class="bad" role="alert">{{ refused }}</span>
    <p v-if="proposed.length > 0" class="proposed muted" data-test="proposed">
      The list of towns of the package city-timezones has
      {{ proposed.length > 1 ? 'several' : 'one' }} of this name; nothing is saved by taking
      {{ proposed.length > 1 ? 'one' : 'it' }}:
      <v-btn v-for="p in proposed" :key="p.of" size="small" data-test="take" @click="take(p)"
        >{{ p.latitude }}, {{ p.longitude }} ({{ p.of }})</v-btn
      >
    </p>
  </form>
</template>

<style scoped>
.where {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  margin: 18px 0 8px;
}

.place {
  max-width: 280px;
}

.proposed {
  flex: 1 0 100%;
  margin: 0;
}

@media print {
  .where {
    display: none;
  }
}
</style>
