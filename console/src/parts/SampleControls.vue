<script setup lang="ts">
import { ElInput, ElSlider } from 'element-plus'
import { useTaste } from '../state/taste'

const taste = useTaste()
</script>

<template>
  <div class="controls">
    <label class="words"><span class="soft small">Your words</span><ElInput v-model="taste.words" placeholder="Each family shows its own sample until you type" clearable maxlength="200" /></label>
    <div class="size"><span class="soft small">Size, {{ taste.size }} px</span><ElSlider v-model="taste.size" :min="12" :max="120" aria-label="Size in pixels" /></div>
  </div>
</template>

<style scoped>
.controls { display: flex; flex-wrap: wrap; gap: 0.5rem 1.5rem; align-items: end; flex: 1; }
.words { flex: 3 1 16rem; }
.size { flex: 1 1 10rem; }
label span, .size span { display: block; }
</style>
