<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { ref, shallowRef, useId, useTemplateRef } from 'vue'

// A sheet at the right side: focus goes to its heading, and back to what opened it.
const { title, width = 460 } = defineProps<{ title: string; width?: number }>()
const emit = defineEmits<{ close: [] }>()
const id = useId()
const heading = useTemplateRef<HTMLElement>('heading')
const opener = shallowRef(document.activeElement as HTMLElement | null)
const open = ref(true)

function left() {
  opener.value?.focus()
  emit('close')
}
</script>

<template>
  <v-dialog
    v-model="open"
    class="sheet"
    :width="width"
    transition="slide-x-reverse-transition"
    :aria-labelledby="id"
    @after-enter="heading?.focus()"
    @after-leave="left"
  >
    <v-sheet class="body">
      <header>
        <h2 :id="id" ref="heading" tabindex="-1">{{ title }}</h2>
        <v-btn :icon="mdiClose" aria-label="Close" data-test="close-sheet" @click="open = false" />
      </header>
      <slot />
    </v-sheet>
  </v-dialog>
</template>

<style>
@layer vuetify-overrides {
  .sheet {
    justify-content: flex-end;
  }

  .sheet > .v-overlay__content {
    margin: 0;
    height: 100dvh;
    max-height: 100dvh;
    max-width: 100vw;
  }

  .sheet .body {
    height: 100%;
    overflow: auto;
    padding: 12px 24px 24px;
  }

  .sheet header {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 12px;
  }

  .sheet header h2 {
    margin: 0;
    font-size: 1.2rem;
    outline: none;
  }
}
</style>
