<script setup lang="ts">
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue'
import { mdiDotsVertical } from '@mdi/js'
import { useRoute, useRouter } from 'vue-router'
import { numeric, type Row, type Table } from '@/api/document'
import { columnsText, highlightOf, moved, styles, widthOf, type WrittenColumn } from '@/columns'
import { count, counted } from '@/format'

// A list of any length: only the rows that are looked at are in the page. The first column stays in view, the head above
// and the sums below as well.
const { list, rowAt, opened, below, whole } = defineProps<{
  list: Table
  rowAt: (i: number) => Row | undefined
  /** How many pixels of the window what stands below it takes. */
  below: number
  /** The order whose sheet is open. */
  opened: string
  /** The first rows are all in the page, to be printed; 0 draws what is looked at. */
  whole: number
}>()
const emit = defineEmits<{
  need: [first: number, last: number]
  sort: [sort: string]
  columns: [text: string]
  open: [number: string]
}>()

const route = useRoute()
const router = useRouter()

const rowHeight = 34
/** More rows than this cannot be scrolled through: browsers end a page at some thirty million pixels. */
const mostRows = 500_000
/** How many rows are drawn beyond those in view. */
const beyond = 12

const frame = ref<HTMLElement>()
const top = ref(0)
const height = ref(600)

/** The lines that say what divides the list. */
const sections = computed(() => {
  let at = 0
  return (list.sections ?? []).map(({ title, rows }) => {
    const from = at
    at += rows + 1
    return { at: from, title }
  })
})
const lines = computed(() => Math.min(list.all, mostRows) + sections.value.length)
const first = computed(() => (whole ? 0 : Math.max(0, Math.floor(top.value / rowHeight) - beyond)))
const last = computed(() =>
  Math.min(
    lines.value - 1,
    whole ? whole - 1 + sections.value.length : Math.ceil((top.value + height.value) / rowHeight) + beyond,
  ),
)

/** A line of the table: a row, perhaps not there yet, or what divides the list. */
const drawn = computed(() =>
  Array.from({ length: Math.max(0, last.value - first.value + 1) }, (_, i) => {
    const line = first.value + i
    const section = sections.value.find((s) => s.at === line)
    const row = line - sections.value.filter((s) => s.at < line).length
    return { line, section: section?.title, row, content: section ? undefined : rowAt(row) }
  }),
)
watch([first, last, () => list], () => {
  const rows = drawn.value.filter((d) => !d.section).map((d) => d.row)
  if (rows.length > 0) emit('need', rows[0] ?? 0, rows[rows.length - 1] ?? 0)
})

function scrolled() {
  if (!frame.value) return
  top.value = frame.value.scrollTop
  height.value = frame.value.clientHeight
}

/** The frame reaches to the end of the window, but for what stands below it. */
const tall = ref(500)
function measure() {
  if (!frame.value) return
  const above = frame.value.getBoundingClientRect().top + window.scrollY
  tall.value = Math.max(320, window.innerHeight - above - 28 - below - (sums.value.length > 0 ? 30 : 0))
  void nextTick(scrolled)
}
onMounted(() => {
  measure()
  window.addEventListener('resize', measure)
})
onUnmounted(() => window.removeEventListener('resize', measure))
watch(
  () => list,
  () => nextTick(measure),
)
watch(
  () => [list.sort, list.title, list.all],
  async () => {
    await nextTick()
    frame.value?.scrollTo({ top: 0 })
  },
)

const natural = computed(() => list.columns.map((_, i) => widthOf(list, i)))

/** Widths while a column is being dragged, by its text. */
const dragged = ref<Record<string, number>>({})
const width = (i: number) => {
  const column = list.columns[i]
  return column ? (dragged.value[column.code] ?? natural.value[i] ?? 0) : 0
}
const wide = computed(() => list.columns.reduce((sum, _, i) => sum + width(i), 0))

function drag(i: number, event: PointerEvent) {
  const column = list.columns[i]
  if (!column) return
  const handle = event.currentTarget as HTMLElement
  const from = event.clientX - width(i)
  handle.setPointerCapture(event.pointerId)
  handle.onpointermove = (e) => {
    dragged.value = { [column.code]: clamp(e.clientX - from) }
  }
  handle.onpointerup = () => {
    handle.onpointermove = handle.onpointerup = null
    keepWidth(i, width(i))
  }
}

const clamp = (pixels: number) => Math.round(Math.min(900, Math.max(50, pixels)))

function keepWidth(i: number, pixels: number) {
  change(list.columns.map((c, j) => (i === j ? { ...c, width: clamp(pixels) } : c)))
  dragged.value = {}
}

function change(columns: readonly WrittenColumn[]) {
  emit('columns', columnsText(columns))
}

/** The keys that the list is sorted by: as columns, or as they were written. */
const keys = computed(() => {
  const texts = [...list.columns.map((c) => c.code), ...list.columns.map((c) => c.heading)]
  const found: { text: string; descending: boolean }[] = []
  let rest = list.sort ?? ''
  while (rest) {
    const descending = rest.startsWith('-')
    if (descending) rest = rest.slice(1)
    const known = texts
      .filter((t) => rest === t || rest.startsWith(`${t},`))
      .sort((a, b) => b.length - a.length)[0]
    const text = known ?? rest.split(',')[0] ?? ''
    found.push({ text: textOf(text), descending })
    rest = rest.slice(text.length + 1)
  }
  return found
})
const textOf = (name: string) => list.columns.find((c) => c.heading === name)?.code ?? name

function direction(text: string) {
  const key = keys.value.find((k) => k.text === text)
  return key && (key.descending ? 'descending' : 'ascending')
}

/** The direction, and the place among several keys. */
function arrow(text: string) {
  const at = keys.value.findIndex((k) => k.text === text)
  if (at < 0) return ''
  return (keys.value[at]?.descending ? '↓' : '↑') + (keys.value.length > 1 ? String(at + 1) : '')
}

/** Sorts by a column, or turns it; with the shift key within the columns before. */
function sortBy(text: string, event: MouseEvent) {
  const turned = { text, descending: direction(text) === 'ascending' }
  const others = event.shiftKey ? keys.value.filter((k) => k.text !== text) : []
  emit('sort', [...others, turned].map((k) => (k.descending ? '-' : '') + k.text).join(','))
}

/** The column whose menu is open, and the heading that is being written there. */
const menu = ref<string>()
const heading = ref('')
function openMenu(i: number, isOpen: boolean) {
  menu.value = isOpen ? list.columns[i]?.code : undefined
  heading.value = list.columns[i]?.own ? list.columns[i].heading : ''
}

function act(i: number, columns: readonly WrittenColumn[]) {
  menu.value = undefined
  change(columns)
}

const without = (i: number) => list.columns.filter((_, j) => j !== i)

function rename(i: number) {
  const text = heading.value.trim()
  act(
    i,
    list.columns.map((c, j) => (i === j ? { ...c, own: text !== '', heading: text } : c)),
  )
}

const styleOf = (of: Pick<Row, 'highlight'> | undefined) => highlightOf(list, of)?.style ?? ''
/** The address of a sheet, up to the number of its order. */
const sheet = computed(() => {
  const { href } = router.resolve({ query: { ...route.query, order: undefined } })
  return `${href}${href.includes('?') ? '&' : '?'}order=`
})
const feet = computed(() => list.totals[0]?.cells ?? [])
/** Sums in several currencies, which are never added up and are too long for a cell. */
const sums = computed(() =>
  list.columns.flatMap((c, i) => {
    const foot = feet.value[i]
    return foot?.text.includes(' + ') ? [{ ...foot, code: c.code, heading: c.heading }] : []
  }),
)
</script>

<template>
  <div>
    <div
      ref="frame"
      class="frame panel"
      :style="{ height: `${tall}px` }"
      tabindex="0"
      role="region"
      aria-label="Orders"
      @scroll.passive="scrolled"
    >
      <table
        data-test="orders"
        :style="{ width: `${wide}px` }"
        :aria-rowcount="lines + 1"
        :aria-label="`${counted(list.orders ?? 0, 'order')} in ${counted(list.all, 'row')}`"
      >
        <colgroup>
          <col v-for="(c, i) in list.columns" :key="c.code" :style="{ width: `${width(i)}px` }" />
        </colgroup>
        <thead>
          <tr>
            <th
              v-for="(c, i) in list.columns"
              :key="c.code"
              scope="col"
              :class="{ number: numeric(c) }"
              :aria-sort="direction(c.code)"
            >
              <div class="head">
                <button
                  type="button"
                  :title="`${c.heading}\nSorts; with shift within the columns before`"
                  @click="sortBy(c.code, $event)"
                >
                  {{ c.heading }} <span aria-hidden="true">{{ arrow(c.code) }}</span>
                </button>
                <v-menu
                  :model-value="menu === c.code"
                  :close-on-content-click="false"
                  @update:model-value="openMenu(i, $event)"
                >
                  <template #activator="{ props: activator }">
                    <v-btn
                      v-bind="activator"
                      :icon="mdiDotsVertical"
                      size="x-small"
                      color="muted"
                      aria-haspopup="dialog"
                      :aria-label="`Column ${c.heading}`"
                      :data-test="`column-${c.code}`"
                    />
                  </template>
                  <v-card border width="300" role="dialog" :aria-label="`Column ${c.heading}`">
                    <v-card-text class="choices">
                      <v-text-field
                        v-model="heading"
                        label="Heading"
                        maxlength="80"
                        :placeholder="c.own ? c.code : c.heading"
                        data-test="heading"
                        @keydown.enter.prevent="rename(i)"
                      />
                      <p class="muted">Shows {{ c.code }}</p>
                      <v-btn data-test="rename" @click="rename(i)">Rename</v-btn>
                      <v-btn
                        :disabled="i === 0"
                        data-test="to-left"
                        @click="act(i, moved(list.columns, i, i - 1))"
                        >Move left</v-btn
                      >
                      <v-btn
                        :disabled="i === list.columns.length - 1"
                        data-test="to-right"
                        @click="act(i, moved(list.columns, i, i + 1))"
                        >Move right</v-btn
                      >
                      <v-btn
                        :disabled="list.columns.length === 1"
                        data-test="leave-out"
                        @click="act(i, without(i))"
                        >Hide</v-btn
                      >
                    </v-card-text>
                  </v-card>
                </v-menu>
              </div>
              <span
                class="handle"
                role="separator"
                tabindex="0"
                aria-orientation="vertical"
                :aria-label="`Width of ${c.heading}`"
                :aria-valuenow="width(i)"
                aria-valuemin="50"
                aria-valuemax="900"
                :data-test="`width-${c.code}`"
                @pointerdown.prevent="drag(i, $event)"
                @keydown.left.prevent="keepWidth(i, width(i) - 20)"
                @keydown.right.prevent="keepWidth(i, width(i) + 20)"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="first > 0" aria-hidden="true" :style="{ height: `${first * rowHeight}px` }" />
          <template v-for="d in drawn" :key="d.line">
            <tr v-if="d.section" class="section" :aria-rowindex="d.line + 2" data-test="section">
              <th :colspan="list.columns.length" scope="rowgroup">{{ d.section }}</th>
            </tr>
            <tr
              v-else
              :aria-rowindex="d.line + 2"
              :class="[
                { opened: d.content?.order === opened },
                styleOf(d.content) && `highlight-${styleOf(d.content)}`,
              ]"
            >
              <td
                v-for="(c, i) in list.columns"
                :key="c.code"
                :class="[
                  { number: numeric(c) },
                  styleOf(d.content?.cells[i]) && `highlight-${styleOf(d.content?.cells[i])}`,
                ]"
                :title="d.content?.cells[i]?.text"
              >
                <template v-if="d.content">
                  <span v-if="i === 0 && styleOf(d.content)" class="sign">{{
                    styles[styleOf(d.content)]
                  }}</span>
                  <span v-if="styleOf(d.content.cells[i])" class="sign">{{
                    styles[styleOf(d.content.cells[i])]
                  }}</span>
                  <a
                    v-if="i === 0"
                    :href="`${sheet}${encodeURIComponent(d.content.order ?? '')}`"
                    @click.exact.prevent="emit('open', d.content.order ?? '')"
                    >{{ d.content.cells[i]?.text || d.content.order }}</a
                  >
                  <template v-else>{{ d.content.cells[i]?.text }}</template>
                  <span
                    v-for="m in d.content.cells[i]?.marks ?? []"
                    :key="m"
                    class="amber"
                    :title="list.marks?.[m]?.text"
                    >{{ list.marks?.[m]?.sign }}</span
                  >
                </template>
                <span v-else-if="i === 0" class="muted">…</span>
              </td>
            </tr>
          </template>
          <tr
            v-if="last < lines - 1 && !whole"
            aria-hidden="true"
            :style="{ height: `${(lines - 1 - last) * rowHeight}px` }"
          />
        </tbody>
        <tfoot v-if="feet.length > 0">
          <tr>
            <td
              v-for="(c, i) in list.columns"
              :key="c.code"
              :class="{ number: numeric(c) }"
              :title="feet[i]?.basis && `${feet[i]?.basis}: ${feet[i]?.text}`"
              :data-test="`foot-${c.code}`"
            >
              <template v-if="feet[i]?.basis"
                ><span class="basis">{{ feet[i]?.basis }}</span>
                {{ sums.some((sum) => sum.code === c.code) ? 'below' : feet[i]?.text }}</template
              >
              <span v-else-if="i === 0" class="basis">all pages</span>
            </td>
          </tr>
        </tfoot>
      </table>
      <p v-if="list.all === 0" class="empty muted">No order is in this selection.</p>
      <p v-if="list.all > mostRows" class="empty muted">
        The first {{ count(mostRows) }} rows can be looked through; export the list for the rest.
      </p>
    </div>
    <p v-if="sums.length > 0" class="sums" data-test="sums">
      <template v-for="(sum, i) in sums" :key="sum.code"
        ><template v-if="i > 0">; </template>{{ sum.heading }}, {{ sum.basis }} over all pages:
        <b>{{ sum.text }}</b></template
      >
    </p>
  </div>
</template>

<style scoped>
.frame {
  overflow: auto;
  contain: strict;
}

.sums {
  margin-top: 8px;
  font-size: 0.85rem;
}

table {
  border-collapse: separate;
  border-spacing: 0;
  table-layout: fixed;
  font-size: 0.845rem;
}

th,
td {
  height: 34px;
  padding: 0 10px;
  text-align: left;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  border-bottom: 1px solid rgb(var(--v-theme-line));
  background: var(--highlight, rgb(var(--v-theme-surface)));
}

thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  height: 54px;
  font-weight: 500;
  font-size: 0.8rem;
  color: rgb(var(--v-theme-muted));
  border-bottom-color: rgb(var(--v-theme-muted));
}

tfoot td {
  position: sticky;
  bottom: 0;
  z-index: 2;
  height: 44px;
  line-height: 1.2;
  font-weight: 600;
  border-top: 1px solid rgb(var(--v-theme-muted));
}

/* The first column stays. */
th:first-child,
td:first-child {
  position: sticky;
  left: 0;
  z-index: 1;
}

thead th:first-child,
tfoot td:first-child {
  z-index: 3;
}

.number {
  text-align: right;
}

.head {
  display: flex;
  align-items: center;
  gap: 2px;
}

.number .head {
  justify-content: flex-end;
}

.head button:first-child {
  min-height: 26px;
  min-width: 26px;
  overflow: hidden;
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  line-clamp: 3;
  white-space: normal;
  line-height: 1.2;
  text-align: inherit;
}

.handle {
  position: absolute;
  inset: 0 0 0 auto;
  width: 7px;
  cursor: col-resize;
  border-right: 1px solid rgb(var(--v-theme-line));
  touch-action: none;
}

.section th {
  background: rgb(var(--v-theme-background));
  font-weight: 600;
}

.opened td {
  background: rgb(var(--v-theme-background));
}

.basis {
  display: block;
  font-weight: 400;
  font-size: 0.76rem;
  color: rgb(var(--v-theme-muted));
}

.sign {
  margin-right: 6px;
}

.choices {
  display: grid;
  gap: 6px;
  justify-items: start;
}

.choices p {
  overflow-wrap: anywhere;
}

.choices .v-input {
  width: 100%;
}

.empty {
  padding: 24px;
}
</style>
