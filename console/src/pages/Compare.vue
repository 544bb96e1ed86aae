<script setup lang="ts">
import { useQueries } from '@tanstack/vue-query'
import { ElCheckbox, ElSlider } from 'element-plus'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { familyQuery } from '../api/queries'
import CompareColumn from '../components/catalog/CompareColumn.vue'
import SampleControls from '../components/shared/SampleControls.vue'

/** Families side by side, at one weight and in the same words. */
const route = useRoute()
const most = 6
const ids = computed(() =>
  [
    ...new Set(
      [route.query.id]
        .flat()
        .map(Number)
        .filter((n) => n > 0),
    ),
  ].slice(0, most),
)
const answers = useQueries({ queries: computed(() => ids.value.map((id) => familyQuery(id))) })
const families = computed(() => answers.value.flatMap((a) => (a.data?.faces.length ? [a.data] : [])))
const weight = ref(400)
const italic = ref(false)
</script>

<template>
  <div class="page wide-page">
    <div class="head">
      <h1>Compare families</h1>
      <RouterLink to="/families">Choose families in the catalog</RouterLink>
    </div>
    <div class="row tools">
      <SampleControls />
      <div class="weight">
        <span class="soft small">Weight, {{ weight }}</span
        ><ElSlider v-model="weight" :min="100" :max="900" :step="10" aria-label="Weight" />
      </div>
      <ElCheckbox v-model="italic">Italic, if available</ElCheckbox>
    </div>
    <p v-if="!families.length" class="soft">Choose two or more families in the catalog; to compare them here.</p>
    <div class="columns">
      <CompareColumn v-for="f in families" :key="f.id" :family="f" :weight="weight" :italic="italic" />
    </div>
  </div>
</template>

<style scoped>
.wide-page {
  max-width: 110rem;
}
.tools {
  align-items: end;
  margin-bottom: 1rem;
}
.weight {
  flex: 0 1 14rem;
  padding-right: 0.6rem;
}
.columns {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(20rem, 100%), 1fr));
  gap: 1rem;
}
</style>
