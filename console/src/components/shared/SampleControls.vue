<script setup lang="ts">
import { ElCheckbox, ElInput, ElOption, ElSelect, ElSlider } from 'element-plus'
import { computed } from 'vue'
import { languages } from '../../api/queries'
import { pangrams } from '../../composables/pangrams'
import { useTaste } from '../../composables/taste'

/** What samples are set in, how large, and on what ground. */
const taste = useTaste()
const { data: known } = languages()
const sentences = computed(() =>
  pangrams.map((p) => ({ ...p, name: known.value?.items.find((l) => l.code === p.code)?.name ?? p.code })),
)
const chosen = computed(() => pangrams.find((p) => p.text === taste.words)?.code ?? '')
const say = (code: string) => (taste.words = pangrams.find((p) => p.code === code)?.text ?? '')
</script>

<template>
  <div class="controls">
    <label class="words"
      ><span class="soft small">Sample text</span
      ><ElInput v-model="taste.words" placeholder="Each font's own sample" clearable maxlength="200"
    /></label>
    <label class="sentence"
      ><span class="soft small">Alphabet of</span>
      <ElSelect
        :model-value="chosen"
        filterable
        clearable
        placeholder="A language"
        aria-label="Alphabet of"
        :value-on-clear="''"
        :empty-values="['']"
        @change="say"
        ><ElOption v-for="p in sentences" :key="p.code" :value="p.code" :label="p.name" /></ElSelect
    ></label>
    <div class="size">
      <span class="soft small">Size, {{ taste.size }} px</span
      ><ElSlider v-model="taste.size" :min="12" :max="120" aria-label="Size in pixels" />
    </div>
    <ElCheckbox v-model="taste.reversed" class="ground">{{
      taste.dark ? 'Dark on light' : 'Light on dark'
    }}</ElCheckbox>
  </div>
</template>

<style scoped>
.controls {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem 1.25rem;
  align-items: end;
  flex: 1;
}
.words {
  flex: 3 1 16rem;
}
.sentence {
  flex: 1 1 9rem;
}
.size {
  flex: 1 1 10rem;
}
label span,
.size span {
  display: block;
}
.ground {
  margin: 0;
}
</style>
