<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../api/client'
import { feature, language } from '../state/features'

const props = defineProps<{ facts: Schemas['Facts'] }>()
const all = ref(false)
const few = 24
const languages = computed(() => props.facts.coverage.languages.map(language).sort((a, b) => a.localeCompare(b)))
const shown = computed(() => (all.value ? languages.value : languages.value.slice(0, few)))
</script>

<template>
  <dl class="facts small">
    <dt>Characters</dt><dd>{{ facts.coverage.codepoints }}, drawn by {{ facts.glyphs }} glyphs</dd>
    <dt>Scripts</dt>
    <dd>
      <div v-for="s in facts.coverage.scripts.slice(0, 8)" :key="s.name" class="script">
        <span>{{ s.name }}</span><meter :value="s.covered" :max="s.of" :aria-label="`${s.name} covered`" /><span class="soft">{{ s.covered }} of {{ s.of }}</span>
      </div>
      <span v-if="facts.coverage.scripts.length > 8" class="soft">and a little of {{ facts.coverage.scripts.length - 8 }} more</span>
    </dd>
    <dt>Languages</dt>
    <dd>
      <template v-if="languages.length">{{ languages.length }} complete: {{ shown.join(', ') }}</template><template v-else>none complete</template>
      <button v-if="languages.length > few" type="button" class="more" :aria-expanded="all" @click="all = !all">{{ all ? 'fewer' : `and ${languages.length - few} more` }}</button>
    </dd>
    <template v-if="facts.coverage.nearly.length">
      <dt>Nearly complete</dt>
      <dd><div v-for="n in facts.coverage.nearly" :key="n.code">{{ language(n.code) }} <span class="soft">lacks {{ [...n.missing].join(' ') }}</span></div></dd>
    </template>
    <template v-if="facts.features.length">
      <dt>Layout</dt>
      <dd class="row chips"><span v-for="f in facts.features" :key="f"><code>{{ f }}</code> <span class="soft">{{ feature(f) }}</span></span></dd>
    </template>
    <template v-if="facts.color.length"><dt>Color</dt><dd>{{ facts.color.join(', ') }}</dd></template>
  </dl>
</template>

<style scoped>
.script { display: grid; grid-template-columns: 8rem 9rem 1fr; gap: 0.75rem; align-items: center; }
meter { width: 100%; height: 0.7rem; }
.more { font: inherit; color: var(--sea); background: none; border: 0; padding: 0 0.3rem; cursor: pointer; text-decoration: underline; }
.chips { gap: 0.1rem 1.1rem; }
@media (max-width: 40rem) { .script { grid-template-columns: 6rem 1fr auto; } }
</style>
