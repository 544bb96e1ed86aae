<script setup lang="ts">
import { computed, ref } from 'vue'
import { base, type Schemas } from '../../api/client'
import { outlined, pinned } from '../../composables/inspected'

/** The picture of a page: runs of text outlined by the font they are set in, and findings pinned to it. */
const props = defineProps<{ inspection: number; page: Schemas['InspectedPage'] }>()
const emit = defineEmits<{ open: [number] }>()
const runs = computed(() => outlined(props.page))
const pins = computed(() => pinned(props.page))
const families = computed(() => [...new Map(runs.value.map((r) => [r.name, r])).values()])
const shown = ref(true)
const at = (b: Schemas['BoxOnPage']) => ({
  left: `${(100 * b.x) / props.page.width}%`,
  top: `${(100 * b.y) / props.page.height}%`,
  width: `${(100 * b.width) / props.page.width}%`,
  height: `${(100 * b.height) / props.page.height}%`,
})
</script>

<template>
  <figure>
    <figcaption class="row small">
      <label><input v-model="shown" type="checkbox" /> Outline text by font</label>
      <span v-for="f in families" :key="f.name" class="key"
        ><i :class="`mark-${f.mark}`" aria-hidden="true"></i>{{ f.name }}</span
      >
    </figcaption>
    <div class="picture">
      <img
        :src="`${base}/inspections/${inspection}/pages/${page.place}/picture`"
        :alt="`The page ${page.title || page.final} as it was`"
      />
      <template v-if="shown">
        <span
          v-for="r in runs"
          :key="r.selector"
          class="run"
          :class="`mark-${r.mark}`"
          :style="at(r.box)"
          :title="`${r.selector}: ${r.name}`"
          aria-hidden="true"
        ></span>
      </template>
      <button
        v-for="p in pins"
        :key="p.number"
        type="button"
        class="pin"
        :class="p.finding.severity"
        :style="{ left: `${(100 * p.x) / page.width}%`, top: `${(100 * p.y) / page.height}%` }"
        :aria-label="`Finding ${p.number}: ${p.finding.title}`"
        :title="p.finding.message"
        @click="emit('open', p.number)"
      >
        {{ p.number }}
      </button>
    </div>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
}
figcaption {
  margin-bottom: 0.4rem;
  gap: 0.3rem 1rem;
}
.picture {
  position: relative;
  border: 1px solid var(--rule);
  line-height: 0;
}
.picture img {
  width: 100%;
}
.run {
  position: absolute;
  border-width: 2px;
  pointer-events: none;
}
.key {
  display: inline-flex;
  align-items: center;
  gap: 0.35rem;
}
.key i {
  width: 1rem;
  height: 0.8rem;
  border-width: 2px;
}
.mark-0 {
  border-color: #0d7a84;
  border-style: solid;
}
.mark-1 {
  border-color: #b34a1b;
  border-style: dashed;
}
.mark-2 {
  border-color: #6a3fa0;
  border-style: dotted;
}
.mark-3 {
  border-color: #2c6e49;
  border-style: double;
}
.mark-system {
  border-color: #a3262a;
  border-style: dashed;
}
.pin {
  position: absolute;
  transform: translate(-30%, -60%);
  min-width: 1.5rem;
  height: 1.5rem;
  padding: 0 0.3rem;
  border: 2px solid #fff;
  border-radius: 0.75rem;
  color: #fff;
  background: #0d5c63;
  font-weight: 600;
  font-size: 0.8rem;
  line-height: 1;
  cursor: pointer;
}
.pin.error {
  background: #a3262a;
}
.pin.warning {
  background: #8a5a00;
}
</style>
