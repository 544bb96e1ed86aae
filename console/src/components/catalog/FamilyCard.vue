<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { spokesman } from '../../composables/faces'
import { some } from '../../composables/show'
import { useTaste } from '../../composables/taste'
import FaceSample from '../face/FaceSample.vue'

/** A family as a card: its name set in itself, or, as a specimen, a line, the alphabet and figures. */
const props = defineProps<{ family: Schemas['FamilySummary']; chosen: boolean; specimen?: boolean }>()
defineEmits<{ choose: [on: boolean] }>()
const taste = useTaste()
const face = computed(() => spokesman(props.family.faces))
const heavy = computed(() => {
  const others = props.family.faces.filter(
    (f) => f.slope === 'upright' && f.width === face.value?.width && f !== face.value,
  )
  return others.sort((a, b) => b.weight - a.weight)[0]
})
const alphabet = 'ABCDEFGHIJKLMNOPQRSTUVWXYZ abcdefghijklmnopqrstuvwxyz 0123456789 &!?“”'
</script>

<template>
  <article class="card" :class="{ specimen, chosen }">
    <header class="row">
      <input
        type="checkbox"
        :checked="chosen"
        :aria-label="`Select ${family.name}`"
        @change="$emit('choose', ($event.target as HTMLInputElement).checked)"
      />
      <RouterLink class="name" :to="`/families/${family.id}`">{{ family.name }}</RouterLink>
    </header>
    <RouterLink
      v-if="face"
      :to="`/families/${family.id}`"
      class="drawn"
      tabindex="-1"
      :aria-label="`Open ${family.name}`"
    >
      <template v-if="specimen">
        <FaceSample
          :file-id="(heavy ?? face).fileId"
          :format="(heavy ?? face).format"
          :place="(heavy ?? face).place"
          :size="Math.max(44, taste.size)"
          :text="taste.words || family.sample || family.name"
        />
        <FaceSample :file-id="face.fileId" :format="face.format" :place="face.place" :size="22" :text="alphabet" wrap />
        <FaceSample
          v-if="family.sample || taste.words"
          :file-id="face.fileId"
          :format="face.format"
          :place="face.place"
          :size="16"
          :text="`${taste.words || family.sample}. ${taste.words || family.sample}.`"
          wrap
        />
      </template>
      <FaceSample
        v-else
        :file-id="face.fileId"
        :format="face.format"
        :place="face.place"
        :size="34"
        :text="taste.words || family.name"
      />
    </RouterLink>
    <p v-else class="soft small">No preview: its files are on another server.</p>
    <footer class="soft small">
      <span>{{ family.client.name }}</span>
      {{ some(family.faces.length, 'face') }},
      <span :class="{ alarm: !family.licenses }">{{
        family.licenses ? some(family.licenses, 'license') : 'no license'
      }}</span>, {{ family.sites ? some(family.sites, 'site') : 'not in use' }}
    </footer>
  </article>
</template>

<style scoped>
.card {
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.7rem 0.9rem;
  display: grid;
  grid-template-rows: auto 1fr auto;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.4rem;
  min-width: 0;
  height: 10.75rem;
  box-sizing: border-box;
  overflow: hidden;
}
.card.specimen {
  height: 17rem;
}
.chosen {
  border-color: var(--sea);
}
header {
  gap: 0.5rem;
  flex-wrap: nowrap;
  white-space: nowrap;
}
header input {
  width: 1rem;
  height: 1rem;
  margin: 0;
  flex: none;
  accent-color: var(--sea);
}
.name {
  font-weight: 650;
  color: var(--ink);
  text-decoration: none;
  overflow: hidden;
  text-overflow: ellipsis;
}
footer > span:first-child {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.drawn {
  color: inherit;
  text-decoration: none;
  min-width: 0;
  overflow: hidden;
  align-content: center;
}
.specimen .drawn {
  align-content: start;
}
.alarm {
  color: var(--bad);
}
</style>
