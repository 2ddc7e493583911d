<script setup lang="ts">
import {
  mdiCalculatorVariantOutline,
  mdiLogout,
  mdiMagnify,
  mdiMenu,
  mdiWeatherNight,
  mdiWhiteBalanceSunny,
} from '@mdi/js'
import { computed, defineAsyncComponent, nextTick, provide, ref, useTemplateRef, watch } from 'vue'
import { useDisplay, useHotkey, useTheme } from 'vuetify'
import { asOf, notice } from './api/client'
import { leave } from './api/session'
import PageList from './components/PageList.vue'
import StateNotice from './components/StateNotice.vue'
import { useBook } from './composables/useBook'
import { BOOK, CHANGED } from './keys'
import { announcement } from './router'

const CommandPalette = defineAsyncComponent(() => import('./components/CommandPalette.vue'))
const DayCalculator = defineAsyncComponent(() => import('./components/DayCalculator.vue'))

const { book, problem, retry, newer, gone, changed } = useBook()
provide(BOOK, book)
provide(CHANGED, changed)

const theme = useTheme()
const isDark = computed(() => theme.global.current.value.dark)
function changeTheme() {
  const next = isDark.value ? 'light' : 'dark'
  theme.change(next)
  localStorage.setItem('theme', next)
}

const { mobile } = useDisplay()
const drawer = ref(!mobile.value)
const narrow = ref(localStorage.getItem('narrow') === 'yes')
watch(narrow, (is) => localStorage.setItem('narrow', is ? 'yes' : 'no'))
const list = useTemplateRef<HTMLElement>('list')
const menu = useTemplateRef<{ $el: HTMLElement }>('menu')
// On a telephone the drawer lies over the page: focus goes in, and back to its button.
watch(drawer, async (isOpen) => {
  if (!mobile.value) return
  await nextTick()
  const focused = document.activeElement
  if (isOpen) list.value?.querySelector('a')?.focus()
  else if (list.value?.contains(focused) || focused === document.body) menu.value?.$el.focus()
})

const going = ref(false)
/** The palette is fetched when it is wanted first, and stays. */
const wanted = ref(false)
watch(going, () => (wanted.value = true), { once: true })
useHotkey('ctrl+k', go, { inputs: true })
useHotkey('/', go)

function go(event: Event) {
  event.preventDefault()
  going.value = true
}

const calculating = ref(false)
const reload = () => location.reload()
function asItIs() {
  const url = new URL(location.href)
  url.searchParams.delete('as_of_load')
  location.assign(url)
}
</script>

<template>
  <v-app>
    <a class="skip" href="#main">Skip to the answer</a>
    <v-app-bar flat density="compact" tag="header" class="bar">
      <template #prepend>
        <v-btn
          ref="menu"
          :icon="mdiMenu"
          :aria-label="mobile ? 'Pages' : narrow ? 'Widen the list of pages' : 'Narrow the list of pages'"
          :aria-expanded="mobile ? drawer : !narrow"
          data-test="menu"
          @click="mobile ? (drawer = !drawer) : (narrow = !narrow)"
        />
      </template>
      <router-link to="/overview" class="brand"
        ><img src="/mark.svg" alt="" width="26" height="26" /> Prairie Dusk</router-link
      >
      <v-spacer />
      <dl v-if="book && book.orders > 0 && !mobile" class="ends">
        <dt>Records from</dt>
        <dd data-test="first-day">{{ book.first_day }}</dd>
        <dt>to the data date</dt>
        <dd data-test="data-date">{{ book.data_date }}</dd>
      </dl>
      <v-btn
        :prepend-icon="mobile ? undefined : mdiMagnify"
        :icon="mobile ? mdiMagnify : undefined"
        :aria-label="mobile ? 'Go to order' : undefined"
        variant="tonal"
        data-test="go"
        @click="going = true"
        ><template v-if="!mobile">Go to order … <kbd>/</kbd></template
        ><v-icon v-else :icon="mdiMagnify"
      /></v-btn>
      <v-btn
        :icon="mdiCalculatorVariantOutline"
        aria-label="Day calculator"
        title="Day calculator"
        data-test="calculator"
        @click="calculating = true"
      />
      <v-btn
        :icon="isDark ? mdiWhiteBalanceSunny : mdiWeatherNight"
        :aria-label="isDark ? 'Light colours' : 'Dark colours'"
        :title="isDark ? 'Light colours' : 'Dark colours'"
        @click="changeTheme"
      />
      <v-btn :icon="mdiLogout" aria-label="Log out" title="Log out" data-test="log-out" @click="leave" />
    </v-app-bar>
    <v-navigation-drawer
      v-model="drawer"
      :rail="narrow && !mobile"
      :retain-focus="mobile"
      width="200"
      aria-label="Pages"
      @keydown.esc="mobile && (drawer = false)"
    >
      <div ref="list" class="pages"><PageList :narrow="narrow && !mobile" /></div>
    </v-navigation-drawer>
    <p class="unseen" aria-live="polite">{{ announcement }}</p>
    <v-main id="main" tabindex="-1">
      <div class="page">
        <p v-if="gone" class="said panel amber" role="status" data-test="gone">
          The service does not answer. Trying again …
        </p>
        <p v-if="asOf" class="said panel amber" role="status" data-test="as-of">
          The records as they were after load {{ asOf }}, until the next one came.
          <v-btn data-test="as-it-is" @click="asItIs">As they are now</v-btn>
        </p>
        <p v-if="notice" class="said panel amber" role="alert" data-test="notice">
          {{ notice }}
        </p>
        <p v-if="newer" class="said panel" role="status" data-test="newer">
          Newer records were imported. <v-btn @click="reload">Show them</v-btn>
        </p>
        <StateNotice v-if="problem && !book" :problem="problem" @retry="retry" />
        <router-view v-else />
      </div>
    </v-main>
    <CommandPalette v-if="wanted" v-model="going" />
    <DayCalculator v-if="calculating && book" :book="book" @close="calculating = false" />
  </v-app>
</template>

<style scoped>
.bar {
  border-bottom: 1px solid rgb(var(--v-theme-line));
}

.brand {
  display: flex;
  align-items: center;
  gap: 10px;
  font-weight: 600;
  color: inherit;
  text-decoration: none;
  white-space: nowrap;
}

.ends {
  display: flex;
  gap: 6px;
  margin-right: 12px;
  font-size: 0.82rem;
  white-space: nowrap;
}

.ends dt {
  color: rgb(var(--v-theme-muted));
}

kbd {
  margin-left: 6px;
  padding: 0 5px;
  border: 1px solid currentcolor;
  border-radius: 4px;
  font: inherit;
  font-size: 0.75rem;
}

.pages {
  padding: 8px 0;
}

.page {
  padding: 24px 32px 64px;
  max-width: 1480px;
}

.said {
  padding: 8px 16px;
  margin-bottom: 16px;
}

.skip {
  position: absolute;
  left: -999px;
}

.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 3000;
}

@media (max-width: 800px) {
  .page {
    padding: 16px 16px 48px;
  }
}
</style>
