<script setup lang="ts">
import { ago, when } from '../../composables/show'

/** A time in the past: how long ago it was, with the exact time on hover. */
defineProps<{ at: string }>()
</script>

<template>
  <time :datetime="at" :title="when(at)">{{ ago(at) }}</time>
</template>
