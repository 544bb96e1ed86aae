<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { bytes, some } from '../../composables/show'

/** The fonts that a page asks for, and the text of it by the font it is set in. */
const props = defineProps<{ page: Schemas['InspectedPage'] }>()
const widths = computed(() => [...new Set(props.page.runs.map((r) => r.width))].sort((a, b) => b - a))
const runs = computed(() => props.page.runs.filter((r) => r.width === widths.value[0]))
</script>

<template>
  <template v-if="page.fonts.length">
    <h3>Fonts loaded</h3>
    <div class="wide">
      <table class="plain small">
        <thead>
          <tr>
            <th>Font</th>
            <th>URL</th>
            <th>Status</th>
            <th class="num">Size</th>
            <th>Shown</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(f, n) in page.fonts" :key="n">
            <td>
              {{ `${f.family} ${f.style}`.trim() || 'no font'
              }}<span v-if="f.version" class="soft"><br />{{ f.version }}</span>
            </td>
            <td class="where">{{ f.url.slice(0, 300) }}</td>
            <td>{{ f.status || f.failed }}</td>
            <td class="num">{{ bytes(f.bytes) }}</td>
            <td>
              {{ f.used ? some(f.characters, 'character') : 'not shown'
              }}<span v-if="f.known" class="soft"
                ><br /><RouterLink :to="`/families/${f.known.id}`">{{ f.known.name }}</RouterLink
                >, {{ f.verdict }}</span
              >
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </template>
  <details v-if="runs.length">
    <summary>{{ some(runs.length, 'text') }} by font, {{ widths[0] }} pixels wide</summary>
    <div class="wide">
      <table class="plain small">
        <thead>
          <tr>
            <th>Where</th>
            <th>Declared</th>
            <th>Shown in</th>
            <th class="num">Characters</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, n) in runs.slice(0, 200)" :key="n">
            <td class="where">
              <code>{{ r.selector }}</code><br /><span class="soft">{{ r.sample }}</span>
            </td>
            <td>{{ r.asked }}, {{ r.weight }}{{ r.style === 'normal' ? '' : `, ${r.style}` }}</td>
            <td>
              {{ r.used }}<span v-if="!r.webFont" class="soft">, system font</span
              ><strong v-if="r.faux" class="faux">, faux {{ r.faux }}</strong>
            </td>
            <td class="num">{{ r.characters }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </details>
</template>

<style scoped>
h3 {
  font-size: 0.95rem;
  margin: 1.2rem 0 0.4rem;
}
details {
  margin-top: 1rem;
}
.where {
  overflow-wrap: anywhere;
  min-width: 12rem;
}
.faux {
  color: var(--caution);
}
</style>
