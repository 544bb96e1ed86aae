<script setup lang="ts">
import { computed, toRef } from 'vue'
import { familyMatches } from '../../api/queries'
import { spokesman } from '../../composables/faces'
import { useTaste } from '../../composables/taste'
import FaceSample from '../face/FaceSample.vue'
import Trouble from '../shared/Trouble.vue'

/** Families that look like this one, or that go together with it, with the measures that say so. */
const props = defineProps<{ id: number; of: 'similar' | 'pairings' }>()
const taste = useTaste()
const { data: found, error, isPending } = familyMatches(toRef(props, 'id'), props.of)
const items = computed(() => (found.value?.items ?? []).slice(0, 6))
const face = (f: (typeof items.value)[number]) =>
  f.family.faces.find((p) => p.style === f.style) ?? spokesman(f.family.faces)
</script>

<template>
  <Trouble v-if="error" :error="error" />
  <p v-else-if="isPending" class="soft">Loading …</p>
  <p v-else-if="!found?.appearance" class="soft">
    Nothing to compare: no face has Latin letters, or they are not measured yet.
  </p>
  <p v-else-if="!items.length" class="soft">
    {{ of === 'similar' ? 'No other family looks like it.' : 'No other family in the catalog pairs well with it.' }}
  </p>
  <ul v-else class="list">
    <li v-for="m in items" :key="m.family.id">
      <div>
        <RouterLink class="name" :to="`/families/${m.family.id}`">{{ m.family.name }}</RouterLink>
        <span class="soft small"> {{ m.family.client.name }}</span>
        <p class="soft small">{{ m.why.join(' ') }}</p>
      </div>
      <FaceSample
        v-if="face(m)"
        :file-id="face(m)!.fileId"
        :format="face(m)!.format"
        :place="face(m)!.place"
        :size="Math.min(taste.size, 36)"
        :text="taste.words || m.family.sample || m.family.name"
      />
    </li>
  </ul>
</template>

<style scoped>
li {
  display: grid;
  grid-template-columns: minmax(14rem, 24rem) minmax(0, 1fr);
  gap: 0.3rem 1.5rem;
  align-items: center;
  padding: 0.5rem 0;
}
.name {
  font-weight: 650;
}
p {
  margin: 0.1rem 0 0;
}
@media (max-width: 46rem) {
  li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
