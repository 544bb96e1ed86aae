<script setup lang="ts">
import { ElInput, ElOption, ElSelect, ElSlider } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import { clients, familyChoicesOf, languages, searchWords, shortlists } from '../../api/queries'
import {
  kinds,
  licenseStates,
  offScale,
  onScale,
  permissions,
  scales,
  sorts,
  statuses,
  type Filters,
} from '../../composables/search'
import { useRest } from '../../composables/rest'
import { origins } from '../../composables/show'

/** What families are narrowed to besides words, with how many families each choice would find. */
const filters = defineModel<Filters>({ required: true })
const { data: known } = clients()
const { data: tongues } = languages()
const { data: words } = searchWords()
const { data: lists } = shortlists(ref(''))
const { data: counts } = familyChoicesOf(filters)
type Option = { value: string; label: string; n?: number }
/** Adds counts; a choice that would find nothing stays only where it is chosen. */
function counted(key: keyof Filters, options: readonly Option[]): Option[] {
  const found = counts.value?.find((c) => c.filter === key)?.values
  if (!found) return [...options]
  return options
    .map((o) => ({ ...o, n: found.find((f) => f.value === o.value)?.families ?? 0 }))
    .filter((o) => o.n > 0 || [filters.value[key]].flat().includes(o.value))
}
const plain = (values?: string[]) => (values ?? []).map((v) => ({ value: v, label: v }))
const formats = ['ttf', 'otf', 'ttc', 'woff', 'woff2', 'eot'].map((c) => ({ value: c, label: c.toUpperCase() }))
const either = (key: 'variable' | 'color' | 'used', yes: string, no: string) => [
  { value: '', label: 'Any' },
  ...counted(key, [
    { value: 'true', label: yes },
    { value: 'false', label: no },
  ]),
]

const many = computed(() => [
  { key: 'license' as const, label: 'License', hint: 'Any', options: counted('license', licenseStates) },
  { key: 'origin' as const, label: 'Origin', hint: 'Any', options: counted('origin', origins) },
  { key: 'permission' as const, label: 'Permission', hint: 'Any', options: counted('permission', permissions) },
  {
    key: 'tag' as const,
    label: 'Tag',
    hint: 'Any',
    options: counted('tag', plain(words.value?.tags.map((t) => t.tag))),
  },
  {
    key: 'language' as const,
    label: 'Supported language',
    hint: 'Any',
    options: [...(tongues.value?.items ?? [])]
      .sort((a, b) => Number(b.widely) - Number(a.widely))
      .map((l): Option => ({ value: l.code, label: l.name })),
  },
  { key: 'script' as const, label: 'Script', hint: 'Any', options: plain(words.value?.scripts) as Option[] },
  {
    key: 'slope' as const,
    label: 'Slope',
    hint: 'Any',
    options: counted('slope', plain(['upright', 'italic', 'oblique'])),
  },
  { key: 'format' as const, label: 'Original format', hint: 'Any', options: counted('format', formats) },
  { key: 'feature' as const, label: 'Layout feature', hint: 'Any', options: plain(words.value?.features) as Option[] },
  {
    key: 'problem' as const,
    label: 'Problem',
    hint: 'Any',
    options: [{ value: 'any', label: 'any problem' }, ...plain(words.value?.problems)] as Option[],
  },
])
const one = computed((): { key: keyof Filters; label: string; options: Option[] }[] => [
  {
    key: 'client',
    label: 'Client',
    options: [
      { value: '', label: 'Any' },
      ...counted(
        'client',
        (known.value?.items ?? []).map((c) => ({ value: c.name, label: c.name })),
      ),
    ],
  },
  {
    key: 'shortlist',
    label: 'Shortlist',
    options: [
      { value: '', label: 'Any' },
      ...(lists.value ?? []).map((l) => ({ value: String(l.id), label: `${l.name} (${l.client.name})` })),
    ],
  },
  { key: 'variable', label: 'Variable', options: either('variable', 'Variable', 'Static') },
  { key: 'color', label: 'Color', options: either('color', 'Color fonts', 'One-color fonts') },
  { key: 'used', label: 'In use', options: either('used', 'On a site', 'On no site') },
  {
    key: 'status',
    label: 'Status',
    options: statuses
      .filter((s) => s.value !== 'active')
      .map((s) => ({
        ...s,
        n: counts.value?.find((c) => c.filter === 'status')?.values.find((v) => v.value === (s.value || 'active'))
          ?.families,
      })),
  },
  { key: 'sort', label: 'Order', options: [...sorts] },
])
// A list of hundreds of languages is rendered when it is opened; until then, what is chosen of it.
const opened = reactive(new Set<string>())
const listed = (f: { key: keyof Filters; options: Option[] }) =>
  opened.has(f.key) ? f.options : f.options.filter((o) => [filters.value[f.key]].flat().includes(o.value))
const rest = useRest(ref(true)) // the many lists come in the frame after the look
const looks = computed(() => {
  const found = counts.value?.find((c) => c.filter === 'kind')?.values
  return kinds.map((k) => ({ ...k, n: found?.find((f) => f.value === k.value)?.families ?? 0 }))
})
/** Ranges count once they are typed to their end, or the slider is let go. */
const ranges = reactive({ weight: '', width: '' })
const sliders = reactive<Record<string, [number, number]>>({})
watch(
  filters,
  (f) => {
    Object.assign(ranges, { weight: f.weight, width: f.width })
    for (const s of scales) sliders[s.key] = onScale(f[s.key], s)
  },
  { immediate: true },
)
function set(key: keyof Filters, value: string | string[]) {
  filters.value = { ...filters.value, [key]: value }
}
const toggle = (kind: string) =>
  set(
    'kind',
    filters.value.kind.includes(kind) ? filters.value.kind.filter((k) => k !== kind) : [...filters.value.kind, kind],
  )
</script>

<template>
  <div class="panel">
    <fieldset class="looks">
      <legend class="soft small">Look, measured from outlines</legend>
      <div class="kinds">
        <button
          v-for="k in looks"
          :key="k.value"
          type="button"
          class="kind"
          :aria-pressed="filters.kind.includes(k.value)"
          :disabled="!k.n && !filters.kind.includes(k.value)"
          @click="toggle(k.value)"
        >
          {{ k.label }} <span class="soft">{{ k.n }}</span>
        </button>
      </div>
      <div class="scales">
        <div v-for="s in scales" :key="s.key">
          <span class="soft small"
            >{{ s.label
            }}<template v-if="filters[s.key]"
              >: {{ sliders[s.key]![0] }}–{{ sliders[s.key]![1] }}{{ s.unit }}</template
            ></span
          >
          <ElSlider
            v-model="sliders[s.key]"
            range
            size="small"
            :min="s.min"
            :max="s.max"
            :step="s.step"
            :range-start-label="`${s.label}, at least`"
            :range-end-label="`${s.label}, at most`"
            @change="set(s.key, offScale($event as [number, number], s))"
          />
          <span class="ends soft"
            ><span>{{ s.ends[0] }}</span
            ><span>{{ s.ends[1] }}</span></span
          >
        </div>
      </div>
    </fieldset>
    <div v-if="rest" class="filters">
      <label v-for="f in one" :key="f.key"
        ><span class="soft small">{{ f.label }}</span>
        <ElSelect
          :model-value="filters[f.key]"
          :aria-label="f.label"
          :empty-values="[null, undefined]"
          filterable
          @visible-change="opened.add(f.key)"
          @change="set(f.key, $event)"
        >
          <ElOption v-for="o in listed(f)" :key="o.value" :value="o.value" :label="o.label">
            <span class="option"
              >{{ o.label }}<span v-if="o.n !== undefined" class="soft">{{ o.n }}</span></span
            >
          </ElOption>
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
          @visible-change="opened.add(f.key)"
          @change="set(f.key, $event)"
        >
          <ElOption v-for="o in listed(f)" :key="o.value" :value="o.value" :label="o.label">
            <span class="option"
              >{{ o.label }}<span v-if="o.n !== undefined" class="soft">{{ o.n }}</span></span
            >
          </ElOption>
        </ElSelect>
      </label>
    </div>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 0.9rem;
}
.looks {
  border: 0;
  margin: 0;
  padding: 0;
  min-width: 0;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  margin: 0.3rem 0 0.6rem;
}
.kind {
  font-size: 0.9rem;
  padding: 0.2rem 0.7rem;
  border: 1px solid var(--el-border-color);
  border-radius: 1rem;
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
}
.kind[aria-pressed='true'] {
  border-color: var(--sea);
  background: var(--el-color-primary-light-9);
}
.kind:disabled {
  opacity: 0.55;
  cursor: default;
}
.scales {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(11rem, 1fr));
  gap: 0.2rem 2rem;
  padding-right: 0.6rem;
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 0.75rem;
  margin-top: -0.35rem;
}
.scales .el-slider {
  padding: 0 0.4rem;
}
.filters {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(11.5rem, 1fr));
  gap: 0.6rem 1rem;
}
label {
  display: grid;
}
.option {
  display: flex;
  justify-content: space-between;
  gap: 1rem;
}
</style>
