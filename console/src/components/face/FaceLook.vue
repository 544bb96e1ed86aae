<script setup lang="ts">
import { ElCheckbox, ElSlider } from 'element-plus'
import { computed, reactive } from 'vue'
import type { Schemas } from '../../api/client'
import { feature } from '../../composables/features'
import { useTaste } from '../../composables/taste'
import FaceSample from './FaceSample.vue'

/** A face close up: its axes and layout features to try, and a waterfall of sizes. */
const props = defineProps<{ face: Schemas['Face']; file: Schemas['File']; words: string }>()
const taste = useTaste()
const metadata = computed(() => props.face.metadata)
const places = reactive<Record<string, number>>(
  Object.fromEntries(props.face.metadata.axes.map((a) => [a.tag, a.default])),
)
const variations = computed(() =>
  metadata.value.axes.length ? metadata.value.axes.map((a) => `"${a.tag}" ${places[a.tag]}`).join(', ') : undefined,
)
// What browsers do unasked starts switched on; what scripts cannot do without is not offered.
const unasked = new Set(['calt', 'clig', 'kern', 'liga', 'rclt', 'locl', 'ccmp', 'mark', 'mkmk'])
const fixed = new Set(['ccmp', 'mark', 'mkmk', 'locl', 'rlig', 'rvrn', 'init', 'medi', 'fina', 'isol', 'aalt', 'size'])
const offered = computed(() => metadata.value.features.filter((f) => !fixed.has(f)))
const on = reactive<Record<string, boolean>>(
  Object.fromEntries(props.face.metadata.features.map((f) => [f, unasked.has(f)])),
)
const features = computed(() => {
  const said = offered.value.filter((f) => on[f] !== unasked.has(f))
  return said.length ? said.map((f) => `"${f}" ${on[f] ? 1 : 0}`).join(', ') : undefined
})
const sizes = [96, 72, 54, 40, 30, 24, 20, 17, 15, 13, 11]
const shown = computed(() => ({
  fileId: props.file.id,
  format: props.file.format,
  place: metadata.value.index,
  variations: variations.value,
  features: features.value,
}))
function instance(coordinates: Record<string, number>) {
  Object.assign(places, coordinates)
}
</script>

<template>
  <div v-if="metadata.axes.length" class="axes">
    <div v-for="a in metadata.axes" :key="a.tag">
      <span class="soft small">{{ a.name || a.tag }}, {{ places[a.tag] }}</span
      ><ElSlider
        v-model="places[a.tag]"
        :min="a.min"
        :max="a.max"
        :step="(a.max - a.min) / 200 > 1 ? 1 : (a.max - a.min) / 200"
        :aria-label="a.name || a.tag"
      />
    </div>
    <div v-if="metadata.instances.length" class="row small named">
      <button v-for="i in metadata.instances" :key="i.name" type="button" @click="instance(i.coordinates)">
        {{ i.name }}
      </button>
    </div>
  </div>
  <div v-if="offered.length" class="row features">
    <ElCheckbox v-for="f in offered" :key="f" v-model="on[f]"
      ><code>{{ f }}</code> {{ feature(f) }}</ElCheckbox
    >
  </div>
  <FaceSample v-bind="shown" :size="taste.size" :text="words" wrap />
  <div class="waterfall">
    <template v-for="s in sizes" :key="s"
      ><span class="soft small">{{ s }}</span
      ><FaceSample v-bind="shown" :size="s" :text="words"
    /></template>
  </div>
</template>

<style scoped>
.axes {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(14rem, 1fr));
  gap: 0.2rem 1.6rem;
  padding: 0 0.6rem;
}
.named {
  grid-column: 1 / -1;
  gap: 0.3rem;
}
.named button {
  font: inherit;
  border: 1px solid var(--rule);
  background: var(--page);
  color: var(--ink);
  padding: 0.1rem 0.55rem;
  cursor: pointer;
}
.features {
  gap: 0 1.2rem;
}
.features .el-checkbox {
  margin: 0;
}
.waterfall {
  display: grid;
  grid-template-columns: 2rem minmax(0, 1fr);
  gap: 0 0.8rem;
  align-items: baseline;
  margin-top: 0.8rem;
  border-top: 1px solid var(--rule);
  padding-top: 0.5rem;
}
</style>
