<script setup lang="ts">
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { ElButton, ElInput, ElRadioButton, ElRadioGroup, ElTag } from 'element-plus'
import { computed, nextTick, onMounted, ref, useTemplateRef, watch, type ComponentPublicInstance } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { families, familyCount, languages, me, shortlists } from '../api/queries'
import CatalogBulk from '../components/catalog/CatalogBulk.vue'
import CatalogFilters from '../components/catalog/CatalogFilters.vue'
import FamilyCard from '../components/catalog/FamilyCard.vue'
import SavedSearches from '../components/catalog/SavedSearches.vue'
import FamilyStrip from '../components/family/FamilyStrip.vue'
import SampleControls from '../components/shared/SampleControls.vue'
import Trouble from '../components/shared/Trouble.vue'
import { chips, fromAddress, narrowing, toAddress, toLine, views, without, type View } from '../composables/search'
import { useEventListener } from '../composables/listen'
import { typingIn } from '../composables/palette'
import { some } from '../composables/show'
import { useTaste } from '../composables/taste'

/** The families of the catalog: searched, narrowed, looked at in three ways, and changed many at once. */
const route = useRoute()
const router = useRouter()
const taste = useTaste()
const filters = ref(fromAddress(route.query))
const typed = ref(filters.value.q)
const narrow = computed(() => narrowing(filters.value))
const open = ref(false)
const { data, error, isPending, hasNextPage, fetchNextPage, isFetchingNextPage, isPlaceholderData } = families(filters)
const { data: total } = familyCount(filters)
const found = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const meant = computed(() => data.value?.pages[0]?.meant ?? [])
const { data: person } = me()
const { data: tongues } = languages()
const { data: lists } = shortlists(ref(''))
const set = computed(() =>
  chips(filters.value, (key, value) => {
    if (key === 'language') return tongues.value?.items.find((l) => l.code === value)?.name
    if (key === 'shortlist') return lists.value?.find((l) => String(l.id) === value)?.name
    return undefined
  }),
)

// Those that are selected stay so while the search changes.
const selected = ref(new Map<number, (typeof found.value)[number]>())
function choose(id: number, on: boolean) {
  const next = new Map(selected.value)
  const family = found.value.find((f) => f.id === id)
  if (on && family) next.set(id, family)
  else next.delete(id)
  selected.value = next
}
const selectAll = () => (selected.value = new Map(found.value.map((f) => [f.id, f])))
const clear = () => (selected.value = new Map())

const view = computed<View>({
  get: () => views.find((v) => v === route.query.view) ?? taste.view,
  set: (v) => {
    taste.view = v
    void router.replace({ query: { ...route.query, view: v } })
  },
})

// The page's URL holds the query; typing settles for a moment first.
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => (filters.value = { ...filters.value, q: t.trim() }), 150)
})
const inAddress = (f: typeof filters.value) => ({
  ...toAddress(f),
  ...(route.query.view ? { view: route.query.view } : {}),
})
watch(filters, (f) => router.replace({ query: inAddress(f) }))
watch(
  () => route.query,
  (q) => {
    const asked = fromAddress(q)
    if (route.path !== '/families' || toLine(asked) === toLine(filters.value)) return
    filters.value = asked
    typed.value = asked.q
  },
)
/** Another search as a whole; the one before is a step back. */
const take = (query: string) => router.push({ query: inAddress(fromAddress(new URLSearchParams(query))) })

// Only the rows in view are there, however many families there are.
const list = useTemplateRef<HTMLElement>('list')
const top = ref(0)
const wide = ref(1000)
const across = computed(() => {
  if (view.value === 'list') return 1
  return Math.max(1, Math.floor((wide.value + 12) / (view.value === 'grid' ? 252 : 372)))
})
const high = computed(() => ({ list: Math.max(96, taste.size * 1.4 + 32), grid: 184, specimen: 284 })[view.value])
const rows = useWindowVirtualizer(
  computed(() => ({
    count: Math.ceil(found.value.length / across.value),
    estimateSize: () => high.value,
    overscan: 6,
    scrollMargin: top.value,
    getItemKey: (i: number) => `${view.value} ${found.value[i * across.value]?.id}`,
  })),
)
const shown = computed(() => rows.value.getVirtualItems())
const inRow = (i: number) => found.value.slice(i * across.value, (i + 1) * across.value)
const measure = (el: Element | ComponentPublicInstance | null) => el instanceof Element && rows.value.measureElement(el)
function place() {
  top.value = list.value?.offsetTop ?? 0
  wide.value = list.value?.clientWidth || wide.value
}
onMounted(place)
useEventListener(window, 'resize', place)
watch([open, meant, found, set, selected], () => nextTick(place))
watch([() => taste.size, view, across], () => rows.value.measure())
watch(shown, (items) => {
  const last = items.at(-1)
  if (
    last &&
    (last.index + 1) * across.value >= found.value.length - 12 &&
    hasNextPage.value &&
    !isFetchingNextPage.value
  )
    void fetchNextPage()
})

// j and k go through the families, x selects the one that has the focus.
const focusable = () => [...(list.value?.querySelectorAll<HTMLAnchorElement>('a.name') ?? [])]
useEventListener(window, 'keydown', (e: KeyboardEvent) => {
  if (e.ctrlKey || e.metaKey || e.altKey || typingIn(e.target)) return
  const at = focusable().findIndex((a) => a === document.activeElement)
  if (e.key === 'j' || e.key === 'k') {
    const next = focusable()[at < 0 ? 0 : at + (e.key === 'j' ? 1 : -1)]
    next?.focus()
    next?.scrollIntoView({ block: 'nearest' })
  } else if (e.key === 'x' && at >= 0) {
    const id = Number(focusable()[at]!.pathname.split('/').at(-1))
    choose(id, !selected.value.has(id))
  }
})
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Catalog</h1>
      <span class="row"
        ><RouterLink to="/gaps">Missing details</RouterLink><RouterLink to="/imports">Add fonts</RouterLink></span
      >
    </div>
    <div class="tools sheet">
      <div class="row find">
        <ElInput
          v-model="typed"
          class="words"
          placeholder="Search by family, PostScript name, file, designer, client or tag"
          clearable
          aria-label="Find"
        />
        <ElButton :aria-expanded="open" @click="open = !open"
          >Filters<template v-if="narrow"> ({{ narrow }})</template></ElButton
        >
        <SavedSearches :line="toLine(filters)" @take="take" />
        <ElRadioGroup v-model="view" aria-label="View" class="views">
          <ElRadioButton value="list">List</ElRadioButton>
          <ElRadioButton value="grid">Grid</ElRadioButton>
          <ElRadioButton value="specimen">Specimens</ElRadioButton>
        </ElRadioGroup>
      </div>
      <CatalogFilters v-if="open" v-model="filters" />
      <SampleControls />
    </div>
    <ul v-if="set.length" class="chips" aria-label="Filters in use">
      <li v-for="c in set" :key="`${c.key} ${c.value}`">
        <ElTag closable type="info" :aria-label="c.label" @close="filters = without(filters, c)">{{ c.label }}</ElTag>
      </li>
      <li><ElButton link type="primary" @click="take('')">Clear filters</ElButton></li>
    </ul>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <template v-else>
      <div class="row line" aria-live="polite">
        <span v-if="total !== undefined" class="soft">{{ some(total, 'family', 'families') }}</span>
        <span v-for="m in meant" :key="m.typed"
          >No results for “{{ m.typed }}”; showing results for {{ m.words.map((w) => `“${w}”`).join(', ') }}.</span
        >
        <ElButton v-if="filters.q && !set.length" link type="primary" @click="take('')">Show all</ElButton>
      </div>
      <p v-if="!found.length && (filters.q || narrow)" class="soft">
        No family matches. Try fewer letters, or fewer filters.
      </p>
      <div v-else-if="!found.length" class="sheet">
        <p>
          This is where every font of the studio is kept: its names, licenses and the sites that use it. It is empty
          now. <RouterLink to="/imports">Add the first fonts</RouterLink>.
        </p>
      </div>
    </template>
    <CatalogBulk
      v-if="selected.size"
      :families="[...selected.values()]"
      :may-edit="person?.role !== 'viewer'"
      :all="found.length"
      @clear="clear"
      @select-all="selectAll"
    />
    <div
      ref="list"
      class="crate"
      :class="{ stale: isPlaceholderData }"
      :style="{ height: `${rows.getTotalSize()}px` }"
      role="list"
    >
      <div
        v-for="v in shown"
        :key="String(v.key)"
        :ref="measure"
        :role="view === 'list' ? 'listitem' : 'presentation'"
        class="slot"
        :class="view"
        :data-index="v.index"
        :style="{
          transform: `translateY(${v.start - top}px)`,
          gridTemplateColumns: `repeat(${across}, minmax(0, 1fr))`,
        }"
      >
        <FamilyStrip
          v-if="view === 'list'"
          :family="found[v.index]!"
          :chosen="selected.has(found[v.index]!.id)"
          @choose="choose(found[v.index]!.id, $event)"
        />
        <template v-else>
          <div v-for="f in inRow(v.index)" :key="f.id" role="listitem">
            <FamilyCard
              :family="f"
              :chosen="selected.has(f.id)"
              :specimen="view === 'specimen'"
              @choose="choose(f.id, $event)"
            />
          </div>
        </template>
      </div>
    </div>
    <p v-if="isFetchingNextPage" class="soft small">Loading more …</p>
  </div>
</template>

<style scoped>
.tools {
  display: grid;
  gap: 0.8rem;
  margin-bottom: 0.75rem;
}
.find {
  flex-wrap: nowrap;
}
.words {
  flex: 1;
}
.line {
  min-height: 1.6rem;
  margin-bottom: 0.4rem;
}
.views {
  flex: none;
  flex-wrap: nowrap;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 0.4rem;
  align-items: center;
  list-style: none;
  margin: 0 0 0.6rem;
  padding: 0;
}
.slot.grid,
.slot.specimen {
  display: grid;
  gap: 12px;
  padding-bottom: 12px;
}
.crate {
  position: relative;
}
.slot {
  position: absolute;
  inset: 0 0 auto;
  contain: layout style;
}
.stale {
  opacity: 0.6;
}
@media (max-width: 40rem) {
  .find {
    flex-wrap: wrap;
  }
  .words {
    flex-basis: 100%;
  }
}
</style>
