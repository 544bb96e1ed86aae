<script setup lang="ts">
import { ElCheckbox } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import type { Schemas } from '../../api/client'
import { fallback } from '../../api/queries'
import { groups } from '../../composables/recipe'
import Trouble from '../shared/Trouble.vue'

/** Rules for local fonts that keep text still while this one loads. */
const props = defineProps<{ fileId: number; metadata: Schemas['Metadata'] }>()
const alike = ref(false)
const { data, error } = fallback(
  toRef(props, 'fileId'),
  props.metadata.index,
  computed(() => (alike.value ? groups : 0)),
)
</script>

<template>
  <p class="soft small">
    Add one of these rules to the stylesheet, and its name to the font stack after the family. Text is shown in the
    local font first, at the same size, so that nothing moves when this font loads.
  </p>
  <ElCheckbox v-model="alike" label="Keep line breaks: letters of the local font differ in size" />
  <Trouble v-if="error" :error="error" />
  <template v-for="f in data?.items ?? []" :key="f.against">
    <p class="small against">
      <strong>{{ f.against }}</strong> <span class="soft">Widths: {{ f.source }}.</span>
    </p>
    <pre class="small">{{ f.css }}</pre>
  </template>
</template>

<style scoped>
pre {
  overflow: auto;
  max-height: 22rem;
  margin: 0.2rem 0 0.8rem;
  padding: 0.6rem 0.8rem;
  background: var(--sheet);
  border: 1px solid var(--rule);
}
.against {
  margin: 0.4rem 0 0;
}
</style>
