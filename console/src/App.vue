<script setup lang="ts">
import {
  mdiCalculatorVariantOutline,
  mdiCalendarMultiselectOutline,
  mdiCalendarBlankOutline,
  mdiClockOutline,
  mdiLogout,
  mdiBookmarkOutline,
  mdiHelpRhombusOutline,
  mdiInboxOutline,
  mdiLabelOutline,
  mdiFlashOutline,
  mdiMapMarkerPath,
  mdiTable,
  mdiThemeLightDark,
  mdiTimerSandEmpty,
  mdiTrayArrowDown,
  mdiViewListOutline,
  mdiWeatherSunsetUp,
} from '@mdi/js'
import { computed, nextTick, provide, ref } from 'vue'
import { useTheme } from 'vuetify'
import DayCalculator from './components/DayCalculator.vue'
import StateNotice from './components/StateNotice.vue'
import { notice } from './api/client'
import { leave } from './api/session'
import { useBook } from './composables/useBook'
import { BOOK, CHANGED } from './keys'
import { pages } from './router'

const { book, problem, retry, newer, changed } = useBook()
provide(BOOK, book)
provide(CHANGED, changed)

const icons: Record<string, string> = {
  '/overview': mdiWeatherSunsetUp,
  '/compare': mdiCalendarMultiselectOutline,
  '/crosstab': mdiTable,
  '/import': mdiTrayArrowDown,
  '/calendars': mdiCalendarBlankOutline,
  '/due': mdiTimerSandEmpty,
  '/quality': mdiHelpRhombusOutline,
  '/orders': mdiViewListOutline,
  '/labels': mdiLabelOutline,
  '/views': mdiBookmarkOutline,
  '/how-long': mdiClockOutline,
  '/open': mdiInboxOutline,
  '/statuses': mdiMapMarkerPath,
  '/immediate': mdiFlashOutline,
}

const theme = useTheme()
const isDark = computed(() => theme.global.current.value.dark)
function changeTheme() {
  const next = isDark.value ? 'light' : 'dark'
  theme.change(next)
  localStorage.setItem('theme', next)
}

const calculating = ref(false)
const calculatorButton = ref<HTMLButtonElement>()
async function closeCalculator() {
  calculating.value = false
  await nextTick()
  calculatorButton.value?.focus()
}

function reload() {
  location.reload()
}
</script>

<template>
  <v-app>
    <a class="skip" href="#main">Skip to the answer</a>
    <nav class="rail" aria-label="Pages">
      <div class="brand"><img src="/mark.svg" alt="" width="28" height="28" /> <b>Prairie Dusk</b></div>
      <router-link v-for="page in pages" :key="page.path" :to="page.path" class="page">
        <v-icon :icon="icons[page.path]" size="20" /> {{ page.name }}
      </router-link>
      <button
        ref="calculatorButton"
        class="page calculator"
        type="button"
        :aria-expanded="calculating"
        data-test="calculator"
        @click="calculating = !calculating"
      >
        <v-icon :icon="mdiCalculatorVariantOutline" size="20" /> Day calculator
      </button>
      <dl v-if="book && book.orders > 0" class="ends">
        <dt>Records from</dt>
        <dd data-test="first-day">{{ book.first_day }}</dd>
        <dt>Data date</dt>
        <dd data-test="data-date">{{ book.data_date }}</dd>
      </dl>
      <div class="own">
        <button class="theme" type="button" @click="changeTheme">
          <v-icon :icon="mdiThemeLightDark" size="18" /> {{ isDark ? 'Light' : 'Dark' }}
        </button>
        <button class="theme" type="button" data-test="log-out" @click="leave">
          <v-icon :icon="mdiLogout" size="18" /> Log out
        </button>
      </div>
    </nav>
    <main id="main" tabindex="-1">
      <p v-if="notice" class="newer panel" role="alert" data-test="notice">{{ notice }}</p>
      <p v-if="newer" class="newer panel" role="status" data-test="newer">
        A newer load has come. <button type="button" @click="reload">Show it</button>
      </p>
      <StateNotice v-if="problem && !book" :problem="problem" @retry="retry" />
      <router-view v-else />
    </main>
    <DayCalculator v-if="calculating && book" :book="book" @close="closeCalculator" />
  </v-app>
</template>

<style scoped>
.rail {
  position: fixed;
  inset: 0 auto 0 0;
  width: 200px;
  padding: 20px 12px;
  display: flex;
  flex-direction: column;
  gap: 4px;
  background: rgb(var(--v-theme-surface));
  border-right: 1px solid rgb(var(--v-theme-line));
}

.brand {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 0 8px 14px;
}

.page {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 5px 8px;
  border-radius: 8px;
  color: inherit;
  text-decoration: none;
}

.calculator {
  margin-top: 12px;
  border: 1px dashed rgb(var(--v-theme-line));
}

.page.router-link-active {
  background: rgb(var(--v-theme-background));
  font-weight: 600;
  box-shadow: inset 3px 0 rgb(var(--v-theme-secondary));
}

.ends {
  margin: auto 8px 12px;
  margin-top: auto;
  font-size: 0.82rem;
}

.ends dt {
  color: rgb(var(--v-theme-muted));
  margin-top: 6px;
}

.own {
  display: flex;
}

.theme {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 8px;
  border-radius: 8px;
  white-space: nowrap;
  font-size: 0.92rem;
}

main {
  margin-left: 200px;
  padding: 28px 32px 64px;
  max-width: 1480px;
  outline: none;
}

.newer {
  padding: 10px 16px;
  margin-bottom: 20px;
}

.newer button {
  text-decoration: underline;
  color: rgb(var(--v-theme-secondary));
}

.skip {
  position: absolute;
  left: -999px;
}

.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 10;
}

@media (max-width: 800px) {
  .rail {
    position: static;
    width: auto;
    flex-direction: row;
    flex-wrap: wrap;
    align-items: center;
    padding: 8px 12px;
    border-right: 0;
    border-bottom: 1px solid rgb(var(--v-theme-line));
  }

  .brand {
    margin: 0 8px 0 0;
  }

  .ends {
    display: flex;
    flex-wrap: wrap;
    gap: 0 8px;
    margin: 0 8px;
    order: 4;
    flex: 1 0 100%;
  }

  .page {
    padding: 4px 8px;
    gap: 6px;
    font-size: 0.9rem;
  }

  .calculator {
    margin-top: 0;
  }

  .own {
    order: 3;
  }

  .ends dt {
    margin: 0;
  }

  main {
    margin-left: 0;
    padding: 20px 16px 48px;
  }
}
</style>
