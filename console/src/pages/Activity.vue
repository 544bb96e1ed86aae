<script setup lang="ts">
import { ElButton, ElDatePicker, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { base } from '../api/client'
import { activity, type ActivityFilters } from '../api/queries'
import JobsPanel from '../components/shared/JobsPanel.vue'
import Trouble from '../components/shared/Trouble.vue'
import { useClient } from '../composables/client'
import { when } from '../composables/show'

/** Who did what, by day; narrowed by person, action, text and days, which stand in the page's URL. */
const route = useRoute()
const router = useRouter()
const names = ['person', 'action', 'q', 'from', 'to'] as const
const filters = computed<ActivityFilters>(() =>
  Object.fromEntries(names.flatMap((n) => (typeof route.query[n] === 'string' ? [[n, route.query[n]]] : []))),
)
/** The client that the console is narrowed to narrows this page, too. */
const { id: client } = useClient()
const asked = computed(() => (client.value ? { ...filters.value, client: client.value } : filters.value))
const { data, error, hasNextPage, fetchNextPage, isFetchingNextPage } = activity(asked)
const all = computed(() => data.value?.pages.flatMap((p) => p.items) ?? [])
const people = computed(() => data.value?.pages[0]?.people ?? [])
const actions = computed(() => data.value?.pages[0]?.actions ?? [])
const narrowed = computed(() => Object.keys(filters.value).length > 0)
function set(change: ActivityFilters) {
  const next = { ...filters.value, ...change }
  void router.replace({ query: Object.fromEntries(Object.entries(next).filter(([, v]) => v)) })
}
const typed = ref(filters.value.q ?? '')
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => set({ q: t.trim() }), 200)
})
watch(
  () => filters.value.q,
  (q) => q === typed.value.trim() || (typed.value = q ?? ''),
)
const days = computed({
  get: () => [filters.value.from ?? '', filters.value.to ?? ''] as [string, string],
  set: (range: [string, string] | null) => set({ from: range?.[0] ?? '', to: range?.[1] ?? '' }),
})
const file = computed(
  () => `${base}/activity/file?${new URLSearchParams(asked.value as unknown as Record<string, string>)}`,
)

const dayOf = (at: string) =>
  new Date(at).toLocaleDateString('en-US', { weekday: 'long', year: 'numeric', month: 'long', day: 'numeric' })
const timeOf = (at: string) => new Date(at).toLocaleTimeString(undefined, { timeStyle: 'short' })
const byDay = computed(() => {
  const out: { day: string; items: typeof all.value }[] = []
  for (const a of all.value) {
    const day = dayOf(a.at)
    if (out.at(-1)?.day !== day) out.push({ day, items: [] })
    out.at(-1)!.items.push(a)
  }
  return out
})
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Activity</h1>
      <a :href="file" download>Export CSV</a>
    </div>
    <JobsPanel />
    <div class="filters" role="search" aria-label="Filter activity">
      <ElSelect
        :model-value="filters.person ?? ''"
        placeholder="Everyone"
        aria-label="Person"
        clearable
        filterable
        :empty-values="[null, undefined, '']"
        @change="set({ person: $event ?? '' })"
        ><ElOption v-for="p in people" :key="p" :value="p" :label="p"
      /></ElSelect>
      <ElSelect
        :model-value="filters.action ?? ''"
        placeholder="All actions"
        aria-label="Action"
        clearable
        filterable
        :empty-values="[null, undefined, '']"
        @change="set({ action: $event ?? '' })"
        ><ElOption v-for="a in actions" :key="a" :value="a" :label="a"
      /></ElSelect>
      <ElInput v-model="typed" placeholder="Name or details" aria-label="Text" clearable maxlength="200" />
      <ElDatePicker
        v-model="days"
        type="daterange"
        value-format="YYYY-MM-DD"
        start-placeholder="From"
        end-placeholder="To"
        aria-label="Days"
      />
    </div>
    <Trouble v-if="error" :error="error" />
    <p v-else-if="data && !all.length" class="soft">
      <template v-if="narrowed"
        >No activity matches.
        <ElButton link type="primary" @click="router.replace({ query: {} })">Clear filters</ElButton>
      </template>
      <template v-else>What people do is recorded here: added fonts, licenses, packs, sign-offs.</template>
    </p>
    <section v-for="d in byDay" :key="d.day">
      <h2>{{ d.day }}</h2>
      <ul class="list">
        <li v-for="a in d.items" :key="a.id" class="line">
          <time class="soft small" :datetime="a.at" :title="when(a.at)">{{ timeOf(a.at) }}</time>
          <div>
            <strong>{{ a.person }}</strong> {{ a.action }}: {{ a.subject }}
            <div v-if="a.detail" class="soft small detail">{{ a.detail }}</div>
          </div>
        </li>
      </ul>
    </section>
    <ElButton v-if="hasNextPage" :loading="isFetchingNextPage" @click="fetchNextPage()">Show earlier</ElButton>
  </div>
</template>

<style scoped>
.filters {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(12rem, 1fr));
  gap: 0.6rem;
  margin: 1rem 0 0.4rem;
}
.filters :deep(.el-date-editor) {
  width: 100%;
  box-sizing: border-box;
}
h2 {
  font-size: 1rem;
  margin: 1.4rem 0 0.3rem;
}
.line {
  display: grid;
  grid-template-columns: 5.5rem minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.5rem 0;
}
.detail {
  overflow-wrap: anywhere;
}
</style>
