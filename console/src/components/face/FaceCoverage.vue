<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { languages as allLanguages } from '../../api/queries'

const props = defineProps<{ metadata: Schemas['Metadata'] }>()
const all = ref(false)
const few = 24
const { data: known } = allLanguages()
const name = (code: string) => known.value?.items.find((l) => l.code === code)?.name ?? code
/** Those most people write come first. */
const languages = computed(() => {
  const complete = new Set(props.metadata.coverage.languages)
  return known.value?.items.filter((l) => complete.has(l.code)).map((l) => l.name) ?? props.metadata.coverage.languages
})
const shown = computed(() => (all.value ? languages.value : languages.value.slice(0, few)))
const scripts = computed(() => props.metadata.coverage.scripts.map((s) => `${s.name} ${s.covered} of ${s.of}`))
</script>

<template>
  <dl class="metadata small">
    <dt>Characters</dt>
    <dd>{{ metadata.coverage.codepoints }}, drawn by {{ metadata.glyphs }} glyphs</dd>
    <dt>Scripts</dt>
    <dd>
      {{ scripts.slice(0, 8).join(', ')
      }}<span v-if="scripts.length > 8" class="soft"> and partly {{ scripts.length - 8 }} more</span>
    </dd>
    <dt>Languages</dt>
    <dd>
      <template v-if="languages.length"
        >{{ languages.length }} complete, {{ all ? 'all of them' : 'among them' }}: {{ shown.join(', ') }}</template
      ><template v-else>none complete</template>
      <button v-if="languages.length > few" type="button" class="more" :aria-expanded="all" @click="all = !all">
        {{ all ? 'fewer' : `and ${languages.length - few} more` }}
      </button>
    </dd>
    <template v-if="metadata.coverage.nearly.length">
      <dt>Nearly complete</dt>
      <dd>
        <div v-for="n in metadata.coverage.nearly" :key="n.code">
          {{ name(n.code) }} <span class="soft">missing {{ [...n.missing].join(' ') }}</span>
        </div>
      </dd>
    </template>
    <template v-if="metadata.color.length"
      ><dt>Color</dt>
      <dd>{{ metadata.color.join(', ') }}</dd></template
    >
  </dl>
</template>

<style scoped>
.more {
  font: inherit;
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0 0.3rem;
  cursor: pointer;
  text-decoration: underline;
}
</style>
