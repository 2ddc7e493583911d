<script setup lang="ts">
import { mdiBookmarkOutline, mdiReceiptTextOutline } from '@mdi/js'
import { computed, nextTick, ref, watch } from 'vue'
import { type RouteLocationRaw, useRouter } from 'vue-router'
import { get, type Views } from '@/api/client'
import { numbersHolding } from '@/api/numbers'
import { useScope } from '@/composables/useScope'
import { pages } from '@/pages'

// Goes anywhere from the keyboard: to a page, to an order by its number, to a saved view.
const open = defineModel<boolean>({ required: true })

const router = useRouter()
const scope = useScope()
const search = ref('')
const views = ref<readonly string[]>([])
const numbers = ref<readonly string[]>([])

/** Where to go when the palette has closed and given the focus back, so that the page gets it last. */
let chosen: RouteLocationRaw | undefined
watch(open, async (isOpen) => {
  if (isOpen || !chosen) return
  const to = chosen
  chosen = undefined
  await nextTick()
  await nextTick()
  void router.push(to)
})

watch(
  open,
  async (isOpen) => {
    search.value = ''
    numbers.value = []
    if (isOpen)
      views.value = await get<Views>('/views', {}).then(
        (got) => got.views.map((v) => v.name),
        () => [],
      )
  },
  { immediate: true },
)

/** Orders are looked up once typing pauses. */
watch(search, (now, _before, onCleanup) => {
  const typed = now.trim()
  const control = new AbortController()
  const timer = setTimeout(async () => {
    numbers.value = typed.length < 2 ? [] : await numbersHolding(typed, control.signal).catch(() => [])
  }, 150)
  onCleanup(() => {
    clearTimeout(timer)
    control.abort()
  })
})

const matches = (name: string) => name.toLowerCase().includes(search.value.trim().toLowerCase())

const items = computed(() => {
  const groups = [
    {
      title: 'Orders',
      items: numbers.value.map((number) => ({
        title: number,
        prependIcon: mdiReceiptTextOutline,
        onClick: () => (chosen = { path: '/orders', query: { order: number } }),
      })),
    },
    {
      title: 'Pages',
      items: pages
        .filter((page) => matches(page.name))
        .map((page) => ({
          title: page.name,
          prependIcon: page.icon,
          onClick: () => (chosen = { path: page.path, query: scope.value(page) }),
        })),
    },
    {
      title: 'Saved views',
      items: views.value.filter(matches).map((name) => ({
        title: name,
        prependIcon: mdiBookmarkOutline,
        onClick: () => (chosen = `/views/${encodeURIComponent(name)}`),
      })),
    },
  ]
  return groups.flatMap((group) =>
    group.items.length > 0 ? [{ type: 'subheader' as const, title: group.title }, ...group.items] : [],
  )
})
</script>

<template>
  <v-command-palette
    v-model="open"
    v-model:search="search"
    :items="items"
    no-filter
    no-data-text="No page, order or saved view of this name"
    data-test="palette"
  >
    <template #input="{ props: input }">
      <input
        v-bind="input"
        v-model="search"
        class="go"
        placeholder="Order number, page or saved view"
        aria-label="Go to an order, a page or a saved view"
        data-test="palette-search"
      />
    </template>
  </v-command-palette>
</template>

<style scoped>
.go {
  width: 100%;
  padding: 14px 18px;
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  outline: none;
}
</style>
