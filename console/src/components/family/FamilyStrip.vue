<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { spokesman } from '../../composables/faces'
import { label, origins, some } from '../../composables/show'
import { useTaste } from '../../composables/taste'
import FaceSample from '../face/FaceSample.vue'

/** A family in a list, set in itself. */
const props = defineProps<{ family: Schemas['FamilySummary']; chosen?: boolean; plain?: boolean }>()
defineEmits<{ choose: [on: boolean] }>()
const taste = useTaste()
const speaker = computed(() => spokesman(props.family.faces))
const meeting = computed(() => props.family.faces.filter((f) => f.meets).length)
const faces = computed(() =>
  meeting.value < props.family.faces.length
    ? `${meeting.value} of ${some(props.family.faces.length, 'face')}`
    : some(props.family.faces.length, 'face'),
)
const standing = computed(() =>
  [
    !['unknown', 'hosted'].includes(props.family.origin) && label(origins, props.family.origin),
    props.family.licenses && some(props.family.licenses, 'license'),
    props.family.inParts && `${some(props.family.inParts, 'face')} in parts`,
  ]
    .filter(Boolean)
    .join(', '),
)
const alarms = computed(() => {
  const f = props.family
  return [
    f.origin === 'unknown' && 'origin unknown',
    !f.licenses && 'no license',
    f.permission === 'restricted' && 'embedding restricted',
    f.unsettled && `${some(f.unsettled, 'file')} to resolve`,
  ]
    .filter(Boolean)
    .join(', ')
})
</script>

<template>
  <div class="strip">
    <div class="about">
      <span class="title"
        ><input
          v-if="!plain"
          type="checkbox"
          :checked="chosen"
          :aria-label="`Select ${family.name}`"
          @change="$emit('choose', ($event.target as HTMLInputElement).checked)"
        /><RouterLink class="name" :to="`/families/${family.id}`">{{ family.name }}</RouterLink></span
      >
      <span class="soft small">{{ [family.client.name, family.designer].filter(Boolean).join(' · ') }}</span>
      <span v-if="family.hosts.length" class="small hosts"
        >{{ family.faces.length ? 'Also' : 'Only' }} hosted at {{ family.hosts.join(', ') }}</span
      >
      <span v-if="standing" class="soft small">{{ standing }}</span>
      <span v-if="alarms" class="small alarm">{{ alarms }}</span>
      <span class="soft small"
        >{{ family.faces.length ? `${faces}, ` : ''
        }}{{ family.sites ? `on ${some(family.sites, 'site')}` : 'not in use' }}</span
      >
    </div>
    <p v-if="!speaker" class="soft small">No preview: its files are on another server.</p>
    <RouterLink v-else :to="`/families/${family.id}`" class="sample" :aria-label="`Open ${family.name}`" tabindex="-1">
      <FaceSample
        :file-id="speaker.fileId"
        :format="speaker.format"
        :place="speaker.place"
        :size="taste.size"
        :text="taste.words || family.sample || family.name"
      />
    </RouterLink>
  </div>
</template>

<style scoped>
.strip {
  display: grid;
  grid-template-columns: 14rem minmax(0, 1fr);
  gap: 0.25rem 1.5rem;
  padding: 0.9rem 0;
  align-items: center;
  border-top: 1px solid var(--rule);
}
.about {
  display: grid;
}
.title {
  display: flex;
  gap: 0.5rem;
  align-items: center;
}
.title input {
  width: 1rem;
  height: 1rem;
  margin: 0;
  accent-color: var(--sea);
}
.name {
  font-weight: 650;
  color: var(--ink);
  text-decoration: none;
}
.name:hover {
  text-decoration: underline;
}
.sample {
  color: inherit;
  text-decoration: none;
  min-width: 0;
}
.hosts {
  color: var(--caution);
}
.alarm {
  color: var(--bad);
  font-weight: 600;
}
.alarm::first-letter {
  text-transform: uppercase;
}
@media (max-width: 46rem) {
  .strip {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
