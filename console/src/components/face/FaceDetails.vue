<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'

const props = defineProps<{ metadata: Schemas['Metadata'] }>()
const systems = computed(() =>
  [
    { key: 'windows', name: 'Windows' },
    { key: 'apple', name: 'Apple' },
    { key: 'other', name: 'Linux, Android' },
  ].flatMap((s) => {
    const m = props.metadata.lines.sets.find((set) => set.set === props.metadata.lines.systems[s.key])
    return m ? [{ ...s, ...m }] : []
  }),
)
const places: Record<string, string> = { hhea: 'hhea', typo: 'OS/2 typographic', win: 'OS/2 Windows' }
const labels: Record<string, string> = {
  designer: 'Designer',
  manufacturer: 'Manufacturer',
  version: 'Version',
  copyright: 'Copyright',
  trademark: 'Trademark',
  license: 'License text',
  licenseUrl: 'License URL',
  description: 'Description',
  vendorUrl: 'Vendor URL',
  designerUrl: 'Designer URL',
  unique: 'Unique identifier',
  sampleText: 'Sample text',
}
const hinting = { none: 'no hinting', instructions: 'TrueType hinting', zones: 'PostScript hinting' } as const
const outlines = {
  truetype: 'TrueType outlines',
  cff: 'PostScript outlines',
  cff2: 'PostScript outlines, variable',
  bitmap: 'bitmaps',
  none: 'no outlines',
} as const
const sums = {
  right: 'right',
  wrong: 'wrong',
  'not-stated': 'not stated in this format',
  'not-checked': 'not checked',
} as const
const day = (iso?: string) =>
  iso ? new Date(iso).toLocaleDateString(undefined, { dateStyle: 'medium' }) : 'not stated'
const platform = (n: number) => ({ 0: 'Unicode', 1: 'Macintosh', 3: 'Windows' })[n] ?? `platform ${n}`
const names = computed(() =>
  Object.entries(labels).flatMap(([key, label]) => {
    const value = props.metadata.names[key as keyof Schemas['Metadata']['names']]
    return value ? [{ label, value }] : []
  }),
)
</script>

<template>
  <dl class="metadata small">
    <template v-for="n in names" :key="n.label"
      ><dt>{{ n.label }}</dt>
      <dd>{{ n.value }}</dd></template
    >
    <dt>Outlines</dt>
    <dd>{{ outlines[metadata.outlines] }}, {{ hinting[metadata.hinting] }}, {{ metadata.unitsPerEm }} units per em</dd>
    <dt>Dates</dt>
    <dd>made {{ day(metadata.created) }}, changed {{ day(metadata.modified) }}</dd>
    <template v-if="metadata.vendor.trim()"
      ><dt>Vendor</dt>
      <dd>{{ metadata.vendor }}</dd></template
    >
    <dt>Checksums</dt>
    <dd>
      {{ sums[metadata.checksums.state]
      }}<template v-if="metadata.checksums.wrong.length">: {{ metadata.checksums.wrong.join(', ') }}</template>
    </dd>
    <template v-if="metadata.axes.length">
      <dt>Axes</dt>
      <dd>
        <div v-for="a in metadata.axes" :key="a.tag">
          {{ a.name || a.tag }} ({{ a.tag }}) {{ a.min }} to {{ a.max }}, {{ a.default }} by default
        </div>
      </dd>
      <dt>Named instances</dt>
      <dd>{{ metadata.instances.map((i) => i.name).join(', ') || 'none' }}</dd>
    </template>
    <dt>Lines</dt>
    <dd>
      <table v-if="systems.length" class="plain">
        <thead>
          <tr>
            <th>System</th>
            <th class="num">Up</th>
            <th class="num">Down</th>
            <th class="num">Between</th>
            <th>Source</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in systems" :key="s.key">
            <td>{{ s.name }}</td>
            <td class="num">{{ s.ascent }}</td>
            <td class="num">{{ -s.descent }}</td>
            <td class="num">{{ s.gap }}</td>
            <td class="soft">{{ places[s.set] }}</td>
          </tr>
        </tbody>
      </table>
      <template v-else>not stated</template>
    </dd>
    <dt>Name records</dt>
    <dd>
      <details>
        <summary>{{ metadata.records.length }} records</summary>
        <div class="wide">
          <table class="plain">
            <thead>
              <tr>
                <th class="num">ID</th>
                <th>Platform</th>
                <th>Language</th>
                <th>Value</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="(r, i) in metadata.records" :key="i">
                <td class="num">{{ r.id }}</td>
                <td>{{ platform(r.platform) }}</td>
                <td>{{ r.language }}</td>
                <td class="value">{{ r.value }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </details>
    </dd>
    <dt>Tables</dt>
    <dd>{{ metadata.tables.map((t) => t.tag.trim()).join(' ') }}</dd>
  </dl>
</template>

<style scoped>
table {
  max-width: 40rem;
}
th,
td {
  overflow-wrap: normal;
}
td.value {
  overflow-wrap: anywhere;
  min-width: 12rem;
}
summary {
  cursor: pointer;
  color: var(--sea);
}
</style>
