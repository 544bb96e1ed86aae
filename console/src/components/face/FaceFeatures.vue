<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { feature, showing } from '../../composables/features'
import { useTaste } from '../../composables/taste'
import FaceSample from './FaceSample.vue'

/** The layout features of a face, each with text that shows it, off and on. */
const props = defineProps<{ metadata: Schemas['Metadata']; file: Schemas['File']; words: string }>()
const taste = useTaste()
/** What scripts cannot do without is on in any case, and has nothing to be compared with. */
const always = new Set(['ccmp', 'mark', 'mkmk', 'locl', 'rlig', 'rvrn', 'init', 'medi', 'fina', 'isol', 'aalt', 'size'])
const rows = computed(() =>
  props.metadata.features.map((tag) => ({
    tag,
    name: feature(tag),
    always: always.has(tag),
    text: taste.words || showing[tag] || props.words,
  })),
)
const shown = computed(() => ({
  fileId: props.file.id,
  format: props.file.format,
  place: props.metadata.index,
  size: 30,
}))
</script>

<template>
  <p v-if="!rows.length" class="soft">This face has no layout features.</p>
  <div v-else class="wide" tabindex="0" role="region" aria-label="Layout features">
    <table class="plain">
      <thead>
        <tr>
          <th scope="col">Feature</th>
          <th scope="col">Off</th>
          <th scope="col">On</th>
          <th scope="col">CSS</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in rows" :key="r.tag" class="feature">
          <td>
            <code>{{ r.tag }}</code>
            <div class="soft small">{{ r.name }}</div>
          </td>
          <template v-if="r.always"
            ><td colspan="2" class="soft small">On in any case, where the text asks for it</td></template
          >
          <template v-else>
            <td><FaceSample v-bind="shown" :text="r.text" :features="`&quot;${r.tag}&quot; 0`" /></td>
            <td><FaceSample v-bind="shown" :text="r.text" :features="`&quot;${r.tag}&quot; 1`" /></td>
          </template>
          <td class="small">
            <code v-if="!r.always">font-feature-settings: "{{ r.tag }}" 1</code>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
td {
  vertical-align: middle !important;
}
</style>
