<script setup lang="ts">
import type { Schemas } from '../../api/client'
import { bytes } from '../../composables/show'

const props = defineProps<{
  formats: Schemas['FaceFormat'][]
  file: Schemas['File']
  place: number
  base: string
  mayHave: boolean
}>()
const use: Record<string, string> = {
  woff2: 'all current browsers',
  woff: 'older browsers',
  ttf: 'installing, apps',
  otf: 'installing, apps',
  eot: 'Internet Explorer only',
  svg: 'early phones only',
}
const address = (m: Schemas['FaceFormat']) =>
  `${props.base}/files/${props.file.id}/content?format=${m.format}&place=${props.place}`
const name = (m: Schemas['FaceFormat']) => props.file.name.replace(/\.[^.]*$/, '') + '.' + m.format
const state = (m: Schemas['FaceFormat']) =>
  ({
    'as-it-came': 'original',
    made: 'made',
    running: 'converting',
    waiting: 'waiting',
    failed: `not possible: ${m.why}`,
    'on-request': 'on request',
  })[m.state]
</script>

<template>
  <div class="wide">
    <table class="plain small">
      <thead>
        <tr>
          <th>Format</th>
          <th>For</th>
          <th class="num">Size</th>
          <th>State</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="m in formats" :key="m.format" :data-format="m.format" :data-state="m.state">
          <td>
            <a v-if="mayHave && m.state !== 'failed'" :href="address(m)" :download="name(m)">{{
              m.format.toUpperCase()
            }}</a><template v-else>{{ m.format.toUpperCase() }}</template>
          </td>
          <td class="soft">{{ use[m.format] }}</td>
          <td class="num">{{ m.bytes === undefined ? '' : bytes(m.bytes) }}</td>
          <td :class="{ failed: m.state === 'failed' }">{{ state(m) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <p class="soft small note">
    Use these files for testing and installing. For a site, download its pack: the pack checks the verdict.
  </p>
</template>

<style scoped>
.failed {
  color: var(--bad);
}
.note {
  margin: 0.4rem 0 0;
}
table {
  max-width: 46rem;
}
</style>
