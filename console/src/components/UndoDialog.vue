<script setup lang="ts">
import type { Load } from '@/api/client'
import { counted } from '@/format'

// Asks before a load is undone, and says what goes with it.
defineProps<{ load?: Load }>()
const emit = defineEmits<{ close: []; undo: [load: Load] }>()
</script>

<template>
  <v-dialog :model-value="!!load" max-width="34rem" @update:model-value="emit('close')">
    <v-card v-if="load" :title="`Undo load ${load.number}?`" data-test="undo-dialog">
      <v-card-text>
        <p v-for="f in load.files" :key="f.name + f.kind">
          <b>{{ f.name }}</b> ({{ f.kind.replace(/-/g, ' ') }}): {{ counted(f.new, 'new record') }}
          {{ f.new === 1 ? 'goes' : 'go' }}, {{ counted(f.changed, 'changed one') }}
          {{ f.changed === 1 ? 'is' : 'are' }} as before.
        </p>
        <p>Until something else is imported, Redo brings it back.</p>
      </v-card-text>
      <v-card-actions>
        <v-spacer />
        <v-btn variant="text" @click="emit('close')">Keep it</v-btn>
        <v-btn color="primary" data-test="undo-sure" @click="emit('undo', load)">Undo it</v-btn>
      </v-card-actions>
    </v-card>
  </v-dialog>
</template>
