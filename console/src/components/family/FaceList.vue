<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { styleOrder } from '../../composables/faces'
import { some } from '../../composables/show'
import { useTaste } from '../../composables/taste'
import FaceSample from '../face/FaceSample.vue'
import VerdictTag from '../shared/VerdictTag.vue'

/** The faces of a family in style order, one line each, with a strip of the weights there are. */
const props = defineProps<{ family: Schemas['Family'] }>()
const taste = useTaste()
const faces = computed(() => styleOrder(props.family.faces))
const weights = computed(() => {
  const out = new Map<number, { weight: number; upright: boolean; italic: boolean }>()
  for (const f of props.family.faces) {
    const axis = f.metadata.axes.find((a) => a.tag === 'wght')
    const all = [100, 200, 300, 400, 500, 600, 700, 800, 900]
    for (const weight of axis ? all.filter((w) => w >= axis.min && w <= axis.max) : [f.metadata.style.weight]) {
      const one = out.get(weight) ?? { weight, upright: false, italic: false }
      if (f.metadata.style.slope === 'upright') one.upright = true
      else one.italic = true
      out.set(weight, one)
    }
  }
  return [...out.values()].sort((a, b) => a.weight - b.weight)
})
const current = (f: Schemas['Face']) => f.files.find((o) => o.current) ?? f.files[0]
const sample = (f: Schemas['Face']) => taste.words || f.metadata.names.sampleText || `${props.family.name} ${f.style}`
/** What somebody has to look at: conflicts between files, problems of the font. */
const notes = (f: Schemas['Face']) =>
  [
    f.files.some((o) => o.unsettled) && 'conflict to resolve',
    f.files.some((o) => !o.current && !o.beside && o.carriedBy.length > 0) && 'old version in use',
    f.metadata.problems.length > 0 && some(f.metadata.problems.length, 'problem'),
  ].filter(Boolean)
</script>

<template>
  <ul v-if="weights.length > 1" class="weights" aria-label="Weights">
    <li v-for="w in weights" :key="w.weight" :style="{ fontWeight: w.weight }">
      {{ w.weight }}<span v-if="w.italic && w.upright" class="soft" title="upright and italic"> + italic</span
      ><span v-else-if="w.italic" class="soft"> italic</span>
    </li>
  </ul>
  <ul class="list faces">
    <li v-for="f in faces" :key="f.id" class="face" :data-face="f.style">
      <div class="about">
        <RouterLink class="name" :to="`/families/${family.id}/faces/${f.id}`">{{ f.style }}</RouterLink>
        <span class="soft small"
          >{{ f.metadata.style.weight }}<template v-if="f.metadata.axes.length">, variable</template>,
          <RouterLink
            class="soft"
            :to="{ path: `/families/${family.id}/faces/${f.id}`, query: { tab: 'characters' } }"
            >{{ some(f.metadata.coverage.codepoints, 'character') }}</RouterLink
          ></span
        >
        <span v-if="f.verdict !== family.verdict.state"><VerdictTag :state="f.verdict" /></span>
        <span v-if="notes(f).length" class="small caution">{{ notes(f).join(', ') }}</span>
      </div>
      <RouterLink
        class="sample"
        :to="`/families/${family.id}/faces/${f.id}`"
        tabindex="-1"
        :aria-label="`Open ${f.style}`"
      >
        <FaceSample
          v-if="current(f)"
          :file-id="current(f)!.id"
          :format="current(f)!.format"
          :place="f.metadata.index"
          :size="taste.size"
          :text="sample(f)"
        />
      </RouterLink>
    </li>
  </ul>
</template>

<style scoped>
.weights {
  display: flex;
  flex-wrap: wrap;
  gap: 0;
  list-style: none;
  margin: 0.8rem 0 0.6rem;
  padding: 0;
  border: 1px solid var(--rule);
  background: var(--sheet);
  width: fit-content;
}
.weights li {
  padding: 0.1rem 0.8rem;
  border-left: 1px solid var(--rule);
}
.weights li:first-child {
  border-left: 0;
}
.weights span {
  font-weight: 400;
  font-size: 0.82rem;
}
.face {
  content-visibility: auto;
  contain-intrinsic-size: auto 5rem;
  display: grid;
  grid-template-columns: 13rem minmax(0, 1fr);
  gap: 0.2rem 1.5rem;
  align-items: center;
  padding: 0.55rem 0;
}
.about {
  display: grid;
  justify-items: start;
}
.name {
  font-weight: 650;
}
.sample {
  color: inherit;
  text-decoration: none;
  min-width: 0;
}
.caution {
  color: var(--caution);
}
@media (max-width: 46rem) {
  .face {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
