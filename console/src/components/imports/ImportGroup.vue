<script setup lang="ts">
import { ElButton, ElCheckbox } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../../api/client'
import { concern, outcomes, said, type Group } from '../../composables/imports'
import { bytes, label, origins, some } from '../../composables/show'

/** The fonts of an import that go into one family: a line, and one for each font where it is unfolded. */
const props = defineProps<{ group: Group; may: boolean; open: boolean }>()
const picked = defineModel<boolean>('picked', { required: true })
const emit = defineEmits<{ change: [body: Schemas['ImportChange']]; edit: [] }>()
const unfolded = ref(props.open || concern(props.group.items) === 'decide')
watch(
  () => props.open,
  (now) => (unfolded.value ||= now),
)
const problems = computed(() =>
  said(props.group.items.filter((i) => i.outcome !== 'same').flatMap((i) => [...new Set(i.problems)])),
)
const waiting = computed(() => props.group.items.filter((i) => i.undecided && i.marked && !i.taken).length)
const left = computed(() => props.group.items.filter((i) => !i.taken))
const tags = computed(() => [...new Set(props.group.items.flatMap((i) => i.tags ?? []))])
/** The folders of a path, with their last slash. */
const folder = (path: string) => path.slice(0, path.lastIndexOf('/') + 1)
</script>

<template>
  <section class="group" :data-family="group.name" :data-concern="concern(group.items)">
    <div class="row">
      <ElCheckbox
        v-if="may && left.length"
        v-model="picked"
        :aria-label="`Choose ${group.name} of ${group.client.name}`"
      />
      <h2>
        <RouterLink v-if="group.metadata?.family" :to="`/families/${group.metadata.family.id}`">{{
          group.name
        }}</RouterLink><template v-else>{{ group.name }}</template>
      </h2>
      <span class="soft small"
        >{{ group.client.name }}, {{ label(origins, group.items[0]?.origin ?? 'unknown').toLowerCase()
        }}{{ group.metadata && !group.metadata.family ? '; a new family' : ''
        }}<template v-if="tags.length">; {{ tags.join(', ') }}</template></span
      >
      <span class="small">{{ some(group.items.length, 'font') }}: {{ outcomes(group.items) }}</span>
      <strong v-if="waiting" class="query small">{{ waiting }} to resolve</strong>
      <ElButton v-if="may && left.length" size="small" text @click="emit('edit')">Change</ElButton>
      <button
        type="button"
        class="fold small"
        :aria-expanded="unfolded"
        :aria-label="`${unfolded ? 'Fold' : 'Unfold'} ${group.name}`"
        @click="unfolded = !unfolded"
      >
        {{ unfolded ? 'Fold' : 'Unfold' }}
      </button>
    </div>
    <p v-for="w in group.metadata?.warnings ?? []" :key="w" class="query small line">{{ w }}</p>
    <p v-for="p in problems" :key="p.text" class="query small line">
      {{ p.text }}<span v-if="p.count > 1" class="soft"> ({{ some(p.count, 'file') }})</span>
    </p>
    <slot />
    <ul v-if="unfolded" class="list">
      <li v-for="i in group.items" :key="i.id" class="item" :data-outcome="i.outcome" :data-taken="i.taken">
        <ElCheckbox
          v-if="may && !i.taken"
          :model-value="i.marked"
          :aria-label="`Import ${i.path}`"
          @change="(on) => emit('change', { items: [i.id], mark: !!on })"
        />
        <span v-else class="soft small">{{ i.taken ? 'in' : i.marked ? '…' : 'out' }}</span>
        <span
          ><span class="soft small file">{{ folder(i.path) }}</span
          ><strong class="file">{{ i.path.slice(folder(i.path).length) }}</strong>
          <span class="soft small">{{ i.faces.join(', ') }}, {{ i.version }}, {{ bytes(i.bytes) }}</span></span
        >
        <span
          >{{ i.why }}
          <RouterLink v-if="i.taken || (i.outcome === 'same' && i.familyId)" :to="`/families/${i.familyId}`"
            >Open {{ i.family }}</RouterLink
          >
          <span v-if="!i.taken && (i.undecided || i.settle)" class="row settle">
            <span v-if="i.settle" class="small">{{
              i.settle === 'use' ? 'Use this file.' : 'The other file is used.'
            }}</span>
            <template v-if="may">
              <ElButton
                v-if="i.settle !== 'use'"
                size="small"
                :aria-label="`Use ${i.path}`"
                @click="emit('change', { items: [i.id], settle: 'use' })"
                >Use this file</ElButton
              >
              <ElButton
                v-if="i.settle !== 'keep'"
                size="small"
                :aria-label="`Keep the other file for ${i.path}`"
                @click="emit('change', { items: [i.id], settle: 'keep' })"
                >Keep the other file</ElButton
              >
            </template>
          </span></span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.group {
  margin-bottom: 0.9rem;
}
.group h2 {
  margin: 0;
  font-size: 1.15rem;
}
.line {
  margin: 0.15rem 0;
}
.fold {
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0.2rem 0;
  font: inherit;
  cursor: pointer;
  text-decoration: underline;
}
.item {
  display: grid;
  grid-template-columns: 4rem minmax(0, 1fr) minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.45rem 0;
  align-items: start;
}
.settle {
  margin-top: 0.3rem;
}
.file {
  overflow-wrap: anywhere;
}
strong.file {
  font-weight: 600;
}
.soft.file {
  display: block;
}
.review {
  color: var(--caution);
}
@media (max-width: 46rem) {
  .item {
    grid-template-columns: 3rem 1fr;
  }
  .item > :nth-child(n + 3) {
    grid-column: 2;
  }
}
</style>
