<script setup lang="ts">
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { ElButton, ElInput } from 'element-plus'
import { computed, nextTick, onMounted, ref, useTemplateRef, watch, type ComponentPublicInstance } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { families, familyCount, me } from '../api/queries'
import CatalogFilters from '../components/catalog/CatalogFilters.vue'
import FamilyStrip from '../components/family/FamilyStrip.vue'
import SampleControls from '../components/shared/SampleControls.vue'
import SavedSearches from '../components/catalog/SavedSearches.vue'
import ShortlistButton from '../components/catalog/ShortlistButton.vue'
import Trouble from '../components/shared/Trouble.vue'
import { fromAddress, narrowing, toAddress, toLine } from '../state/search'
import { some } from '../state/show'
import { useTaste } from '../state/taste'

const route = useRoute()
const router = useRouter()
const taste = useTaste()
const filters = ref(fromAddress(route.query))
const typed = ref(filters.value.q)
const narrow = computed(() => narrowing(filters.value))
const open = ref(narrow.value > 0)
const { data, error, isPending, hasNextPage, fetchNextPage, isFetchingNextPage, isPlaceholderData } = families(filters)
const { data: total } = familyCount(filters)
const found = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const meant = computed(() => data.value?.pages[0]?.meant ?? [])
const { data: person } = me()
const chosen = ref<number[]>([])

// The address of the page holds the query; typing settles for a moment first.
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => (filters.value = { ...filters.value, q: t.trim() }), 150)
})
watch(filters, (f) => router.replace({ query: toAddress(f) }))
watch(
  () => route.query,
  (q) => {
    const asked = fromAddress(q)
    if (route.path !== '/families' || toLine(asked) === toLine(filters.value)) return
    filters.value = asked
    typed.value = asked.q
    open.value ||= narrow.value > 0
  },
)
/** Another search as a whole; the one before is a step back. */
const take = (query: string) => router.push({ query: toAddress(fromAddress(new URLSearchParams(query))) })
function choose(id: number, on: boolean) {
  chosen.value = on ? [...chosen.value, id] : chosen.value.filter((c) => c !== id)
}

// Only the strips in view are there, however many families there are.
const list = useTemplateRef<HTMLElement>('list')
const top = ref(0)
const rows = useWindowVirtualizer(
  computed(() => ({
    count: found.value.length,
    estimateSize: () => Math.max(96, taste.size * 1.4 + 32),
    overscan: 6,
    scrollMargin: top.value,
    getItemKey: (i: number) => found.value[i]!.id,
  })),
)
const shown = computed(() => rows.value.getVirtualItems())
const measure = (el: Element | ComponentPublicInstance | null) => el instanceof Element && rows.value.measureElement(el)
const place = () => (top.value = list.value?.offsetTop ?? 0)
onMounted(place)
watch([open, meant, found], () => nextTick(place))
watch(
  () => taste.size,
  () => rows.value.measure(),
)
watch(shown, (items) => {
  const last = items.at(-1)
  if (last && last.index >= found.value.length - 12 && hasNextPage.value && !isFetchingNextPage.value)
    void fetchNextPage()
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
      </div>
      <CatalogFilters v-if="open" v-model="filters" />
      <SampleControls />
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="isPending" class="soft">Loading …</p>
    <template v-else>
      <div class="row line" aria-live="polite">
        <span v-if="total !== undefined" class="soft">{{ some(total, 'family', 'families') }}</span>
        <span v-for="m in meant" :key="m.typed"
          >Nothing begins with “{{ m.typed }}”; these have {{ m.words.map((w) => `“${w}”`).join(', ') }}.</span
        >
        <ElButton v-if="narrow || filters.q" link type="primary" @click="take('')">Show all</ElButton>
        <RouterLink v-if="chosen.length > 1" :to="`/compare?${chosen.map((c) => `id=${c}`).join('&')}`"
          >Compare {{ some(chosen.length, 'family', 'families') }}</RouterLink
        >
        <span v-else-if="chosen.length" class="soft small">Choose another family to compare.</span>
        <ShortlistButton v-if="chosen.length && person?.role !== 'viewer'" :families="chosen" @done="chosen = []" />
      </div>
      <p v-if="!found.length && (filters.q || narrow)" class="soft">
        No family matches. Try fewer letters, or fewer filters.
      </p>
      <div v-else-if="!found.length" class="sheet">
        <p>The catalog is empty. <RouterLink to="/imports">Add the first fonts</RouterLink>.</p>
      </div>
    </template>
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
        role="listitem"
        class="slot"
        :data-index="v.index"
        :style="{ transform: `translateY(${v.start - top}px)` }"
      >
        <FamilyStrip
          :family="found[v.index]!"
          :chosen="chosen.includes(found[v.index]!.id)"
          @choose="choose(found[v.index]!.id, $event)"
        />
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
