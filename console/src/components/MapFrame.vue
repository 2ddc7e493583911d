<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { type Part, recordsOf, tableOf } from '@/api/document'
import {
  gather,
  mapHeight,
  mapPicture,
  mostZoom,
  type Place,
  routesPicture,
  type Scale,
  seen,
  shadedPicture,
  type Size,
  type View,
  viewOf,
  world,
} from '@/charts/places'
import ChartFrame from '@/components/ChartFrame.vue'
import type { Tokens } from '@/theme'

// Places on the map: as circles, as routes from sites, or as shaded countries. The pointer, buttons and keys zoom and move it; which
// places are gathered follows the zoom.
const { part, kind, places, scale, unit, tokens } = defineProps<{
  part: Part
  kind: 'circles' | 'routes' | 'countries'
  places: readonly Place[]
  scale: Scale
  unit: string
  sentence: string
  below: readonly string[]
  tokens: Tokens
}>()

/** What the legend takes. */
const legend = 60
const element = useTemplateRef<HTMLElement>('element')
const width = ref(1000)
const size = computed<Size>(() => ({ width: width.value, height: mapHeight - legend }))

const countries = ref<readonly string[]>()
const outlines = ref('world')
void import('@/charts/world').then(async (charts) => (countries.value = await charts.loadWorld()))

/** What is drawn for; undefined is all places. */
const drawnFor = ref<View>()
const view = computed(() => drawnFor.value ?? (kind === 'countries' ? world : viewOf(places, size.value)))
/** What is looked at, while the pointer moves the map: it is drawn for that when it has come to rest. */
const looked = shallowRef<View>(view.value)
watch(view, (now) => (looked.value = now))
let resting: ReturnType<typeof setTimeout> | undefined

watch(
  () => view.value.zoom > 8,
  (near) => {
    if (!near || outlines.value !== 'world') return
    void import('@/charts/world').then(async (charts) => {
      await charts.loadFinerWorld()
      outlines.value = 'finer world'
    })
  },
  { immediate: true },
)
const gathered = computed(() =>
  kind === 'circles' ? gather(places, { ...world, zoom: view.value.zoom }, size.value) : [],
)
const circles = computed(() => seen(gathered.value, view.value, size.value))

const drawn = computed(() => ({
  circles: circles.value,
  size: size.value,
  scale,
  view: view.value,
  unit,
  outlines: outlines.value,
}))
const picture = computed(() => {
  if (kind === 'countries') return shadedPicture(places, countries.value ?? [], drawn.value, tokens)
  return kind === 'routes'
    ? routesPicture(part, places, drawn.value, tokens)
    : mapPicture(places, drawn.value, tokens)
})
/** What has been thought out is drawn in a task of its own, so that none keeps the page for long. */
const shown = shallowRef(picture.value)
let drawing: ReturnType<typeof setTimeout> | undefined
watch(picture, (next) => {
  clearTimeout(drawing)
  drawing = setTimeout(() => (shown.value = next))
})
const rows = computed(() => recordsOf(tableOf(part, 'places')))

/** Zooms by a factor, and moves by parts of what is seen. */
function look(by: number, east = 0, north = 0) {
  const { zoom, centre } = looked.value
  const across = 140 / zoom
  drawnFor.value = {
    zoom: Math.min(mostZoom, Math.max(1, zoom * by)),
    centre: [
      Math.min(180, Math.max(-180, centre[0] + east * across)),
      Math.min(84, Math.max(-56, centre[1] + north * across)),
    ],
  }
}

function roamed(factor: number, centre: readonly [number, number]) {
  looked.value = { zoom: Math.min(mostZoom, Math.max(1, looked.value.zoom * factor)), centre }
  clearTimeout(resting)
  resting = setTimeout(() => (drawnFor.value = looked.value), 150)
}

/** A circle of several places leads into them. */
function opened(index: number) {
  const circle = circles.value[index]
  if (circle && circle.places.length > 1) drawnFor.value = viewOf(circle.places, size.value)
}

const moves: Readonly<Record<string, () => void>> = {
  '+': () => look(1.5),
  '=': () => look(1.5),
  '-': () => look(1 / 1.5),
  '0': () => (drawnFor.value = world),
}
const arrows: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-0.2, 0],
  ArrowRight: [0.2, 0],
  ArrowUp: [0, 0.2],
  ArrowDown: [0, -0.2],
}
function pressed(event: KeyboardEvent) {
  const arrow = event.shiftKey ? arrows[event.key] : undefined
  const move = arrow ? () => look(1, ...arrow) : moves[event.key]
  if (!move || event.ctrlKey || event.metaKey) return
  event.preventDefault()
  event.stopPropagation()
  move()
}

const watching = new ResizeObserver(([entry]) => (width.value = entry?.contentRect.width ?? width.value))
onMounted(() => element.value && watching.observe(element.value))
onBeforeUnmount(() => {
  watching.disconnect()
  clearTimeout(resting)
  clearTimeout(drawing)
})
</script>

<template>
  <div ref="element" data-test="map" :data-zoom="looked.zoom.toFixed(1)" @keydown.capture="pressed">
    <div class="looks">
      <v-btn size="small" data-test="zoom-in" @click="look(1.5)">Zoom in</v-btn>
      <v-btn size="small" data-test="zoom-out" @click="look(1 / 1.5)">Zoom out</v-btn>
      <v-btn size="small" data-test="all-places" @click="drawnFor = undefined">All places</v-btn>
      <v-btn size="small" data-test="whole-world" @click="drawnFor = world">Whole world</v-btn>
    </div>
    <ChartFrame
      v-if="countries"
      v-bind="shown"
      :rows="rows"
      :sentence="sentence"
      :below="below"
      :tokens="tokens"
      @roam="roamed"
      @point="opened"
    />
    <p v-else class="panel waiting muted">Fetching the outlines …</p>
  </div>
</template>

<style scoped>
.looks {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  margin-bottom: 8px;
}

.waiting {
  height: 560px;
  padding: 24px;
}

@media print {
  .looks {
    display: none;
  }
}
</style>
