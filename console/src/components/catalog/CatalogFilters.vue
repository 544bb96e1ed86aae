<script setup lang="ts">
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import { clients, languages, searchWords, shortlists } from '../../api/queries'
import { either, licenseStates, permissions, statuses, sorts, type Filters } from '../../state/search'
import { origins } from '../../state/show'

/** What families are narrowed to besides words. */
const filters = defineModel<Filters>({ required: true })
const { data: known } = clients()
const { data: tongues } = languages()
const { data: words } = searchWords()
const { data: lists } = shortlists(ref(''))
const plain = (values?: string[]) => (values ?? []).map((v) => ({ value: v, label: v }))

const many = computed(
  () =>
    [
      {
        key: 'language',
        label: 'Supported language',
        hint: 'Any language',
        options: [...(tongues.value?.items ?? [])]
          .sort((a, b) => Number(b.widely) - Number(a.widely))
          .map((l) => ({ value: l.code, label: l.name })),
      },
      { key: 'permission', label: 'Permission', hint: 'Any permission', options: permissions },
      { key: 'license', label: 'License', hint: 'Any state', options: licenseStates },
      { key: 'origin', label: 'Origin', hint: 'Any origin', options: origins },
      { key: 'slope', label: 'Slope', hint: 'Any slope', options: plain(['upright', 'italic', 'oblique']) },
      {
        key: 'format',
        label: 'Original format',
        hint: 'Any format',
        options: ['ttf', 'otf', 'ttc', 'woff', 'woff2', 'eot'].map((c) => ({ value: c, label: c.toUpperCase() })),
      },
      { key: 'script', label: 'Script', hint: 'Any script', options: plain(words.value?.scripts) },
      { key: 'feature', label: 'Layout feature', hint: 'Any feature', options: plain(words.value?.features) },
      {
        key: 'problem',
        label: 'Problem',
        hint: 'Any',
        options: [{ value: 'any', label: 'any problem' }, ...plain(words.value?.problems)],
      },
      {
        key: 'tag',
        label: 'Tag',
        hint: 'Any tag',
        options: (words.value?.tags ?? []).map((t) => ({ value: t.tag, label: `${t.tag} (${t.families})` })),
      },
    ] as const,
)
const one = computed(
  () =>
    [
      {
        key: 'client',
        label: 'Client',
        options: [
          { value: '', label: 'Any client' },
          ...(known.value?.items ?? []).map((c) => ({ value: c.name, label: c.name })),
        ],
      },
      {
        key: 'shortlist',
        label: 'Shortlist',
        options: [
          { value: '', label: 'Any shortlist' },
          ...(lists.value ?? []).map((l) => ({ value: String(l.id), label: `${l.name} (${l.client.name})` })),
        ],
      },
      { key: 'variable', label: 'Variable', options: either('Variable', 'Static') },
      { key: 'color', label: 'Color', options: either('Color fonts', 'One-color fonts') },
      { key: 'used', label: 'In use', options: either('On a site', 'On no site') },
      { key: 'status', label: 'Kept', options: statuses },
      { key: 'sort', label: 'Order', options: sorts },
    ] as const,
)
/** Ranges count once they are typed to their end. */
const ranges = reactive({ weight: '', width: '' })
watch(
  () => [filters.value.weight, filters.value.width] as const,
  ([weight, width]) => Object.assign(ranges, { weight, width }),
  { immediate: true },
)
function set(key: keyof Filters, value: string | string[]) {
  filters.value = { ...filters.value, [key]: value }
}
</script>

<template>
  <div class="filters">
    <label v-for="f in one" :key="f.key"
      ><span class="soft small">{{ f.label }}</span>
      <ElSelect
        :model-value="filters[f.key]"
        :aria-label="f.label"
        :empty-values="[null, undefined]"
        filterable
        @change="set(f.key, $event)"
      >
        <ElOption v-for="o in f.options" :key="o.value" :value="o.value" :label="o.label" />
      </ElSelect>
    </label>
    <label
      v-for="r in [
        { key: 'weight', label: 'Weight', hint: '400, or 600-900' },
        { key: 'width', label: 'Width, %', hint: '100, or 75-' },
      ] as const"
      :key="r.key"
    >
      <span class="soft small">{{ r.label }}</span>
      <ElInput
        v-model="ranges[r.key]"
        :placeholder="r.hint"
        :aria-label="r.label"
        clearable
        @change="set(r.key, $event.trim())"
        @clear="set(r.key, '')"
      />
    </label>
    <label v-for="f in many" :key="f.key"
      ><span class="soft small">{{ f.label }}</span>
      <ElSelect
        :model-value="filters[f.key]"
        multiple
        collapse-tags
        filterable
        clearable
        :placeholder="f.hint"
        :aria-label="f.label"
        @change="set(f.key, $event)"
      >
        <ElOption v-for="o in f.options" :key="o.value" :value="o.value" :label="o.label" />
      </ElSelect>
    </label>
  </div>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(11.5rem, 1fr));
  gap: 0.6rem 1rem;
}
label {
  display: grid;
}
</style>
