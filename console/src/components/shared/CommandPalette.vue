<script setup lang="ts">
import { ElDialog, ElInput } from 'element-plus'
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { clients, familyChoices, sites } from '../../api/queries'
import { everyPage } from '../../composables/every'
import { actions, matching, shortcuts, type Target } from '../../composables/palette'
import { usePerson } from '../../composables/person'

/** Finds pages, actions, families, sites and clients by their names, steered with the keyboard. */
const open = defineModel<boolean>({ required: true })
defineProps<{ keys: boolean }>()
const router = useRouter()
const person = usePerson()
const typed = ref('')
const q = ref('')
let settling = 0
watch(typed, (t) => {
  clearTimeout(settling)
  settling = window.setTimeout(() => (q.value = t.trim()), 120)
})
const { data: families } = familyChoices(q)
const { data: places, hasNextPage, fetchNextPage } = sites()
// Sites are found by name wherever they are in the list; what cannot be read is not found.
watch(hasNextPage, (more) => more && void everyPage({ hasNextPage, fetchNextPage }).catch(() => undefined), {
  immediate: true,
})
const { data: known } = clients()
const targets = computed<Target[]>(() => [
  ...shortcuts.map((s) => ({ kind: 'Page', name: s.name, to: s.to, keys: `g ${s.key}` })),
  ...actions.filter((a) => !a.edits || person.value?.role !== 'viewer'),
  ...(known.value?.items ?? []).map((c) => ({ kind: 'Client', name: c.name, to: `/clients/${c.id}` })),
  ...(places.value?.pages.flatMap((p) => p.items) ?? []).map((s) => ({
    kind: 'Site',
    name: s.name,
    note: s.client.name,
    to: `/sites/${s.id}`,
  })),
])
const found = computed<Target[]>(() => [
  ...matching(targets.value, typed.value).slice(0, 12),
  ...(q.value
    ? (families.value ?? [])
        .slice(0, 12)
        .map((f) => ({ kind: 'Family', name: f.name, note: f.client.name, to: `/families/${f.id}` }))
    : []),
])
const at = ref(0)
watch(found, () => (at.value = 0))
watch(open, (now) => now && (typed.value = ''))
function go(t?: Target) {
  if (!t) return
  open.value = false
  void router.push(t.to)
}
function move(by: number) {
  at.value = (at.value + by + found.value.length) % Math.max(1, found.value.length)
  void nextTick(() => document.querySelector('.palette .at')?.scrollIntoView({ block: 'nearest' }))
}
</script>

<template>
  <ElDialog v-model="open" class="palette" width="min(40rem, 94vw)" top="10vh" :show-close="false" aria-label="Search">
    <ElInput
      v-model="typed"
      autofocus
      placeholder="Family, site, client or page"
      aria-label="Search families, sites, clients and pages"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.enter.prevent="go(found[at])"
    />
    <dl v-if="keys && !typed" class="metadata small keys">
      <dt><kbd>/</kbd></dt>
      <dd>Search</dd>
      <dt><kbd>?</kbd></dt>
      <dd>Show these shortcuts</dd>
      <template v-for="s in shortcuts" :key="s.key"
        ><dt>
          <kbd>g</kbd> <kbd>{{ s.key }}</kbd>
        </dt>
        <dd>{{ s.name }}</dd></template
      >
      <dt><kbd>Esc</kbd></dt>
      <dd>Close</dd>
    </dl>
    <ul v-else class="list" role="listbox" aria-label="Results">
      <li
        v-for="(t, i) in found"
        :key="`${t.kind} ${t.to}`"
        role="option"
        :aria-selected="i === at"
        :class="{ at: i === at }"
        @click="go(t)"
        @mousemove="at = i"
      >
        <span
          >{{ t.name }} <span v-if="t.note" class="soft small">{{ t.note }}</span></span
        >
        <span class="soft small">{{ t.keys ?? t.kind }}</span>
      </li>
      <li v-if="!found.length" class="soft">No results.</li>
    </ul>
  </ElDialog>
</template>

<style scoped>
ul {
  max-height: 55vh;
  overflow: auto;
  margin-top: 0.6rem;
}
li {
  display: flex;
  justify-content: space-between;
  gap: 1rem;
  padding: 0.35rem 0.6rem;
  cursor: pointer;
}
li.at {
  background: var(--page);
  box-shadow: inset 3px 0 0 var(--rust);
}
.keys {
  grid-template-columns: 5rem minmax(0, 1fr);
  margin-top: 0.8rem;
}
</style>
