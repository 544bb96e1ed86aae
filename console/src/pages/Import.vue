<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElInput, ElOption, ElProgress, ElSelect } from 'element-plus'
import { computed, reactive, ref, toRef, watch, watchEffect } from 'vue'
import { api, data as dataOf, type Schemas } from '../api/client'
import { change, clients, fontImport, importFamilies, importItems, me } from '../api/queries'
import ImportBulk from '../components/imports/ImportBulk.vue'
import ImportGroup from '../components/imports/ImportGroup.vue'
import DropZone from '../components/imports/DropZone.vue'
import Trouble from '../components/shared/Trouble.vue'
import TimeAgo from '../components/shared/TimeAgo.vue'
import { concern, grouped, type Concern, type Group } from '../composables/imports'
import { useTrouble } from '../composables/form'
import { bytes, importStates, label, origins, some } from '../composables/show'
import { renew } from '../composables/renew'
import { uploadAll, stop, uploads } from '../composables/uploads'
import { sure } from '../composables/ask'

/** What arrived together, looked through before it is imported. */
const props = defineProps<{ id: number }>()
const queries = useQueryClient()
const { data: d, error } = fontImport(toRef(props, 'id'))
const { data: pages, fetchNextPage, hasNextPage, isFetching: reads, refetch } = importItems(toRef(props, 'id'))
watch(d, () => void refetch()) // what became of the import became of its things
const { data: known } = clients()
const { data: person } = me()
const items = computed(() => pages.value?.pages.flatMap((p) => p.items) ?? [])
const fonts = computed(() => items.value.filter((i) => i.kind === 'font'))
const rest = computed(() => items.value.filter((i) => i.kind !== 'font' && i.kind !== 'archive'))
const may = computed(
  () => person.value?.role !== 'viewer' && !!d.value && (d.value.state === 'open' || d.value.state === 'finished'),
)
const trouble = useTrouble()

/** What is known of families beyond the import's first page of them is read as their fonts come into view. */
const {
  data: later,
  fetchNextPage: laterFamilies,
  hasNextPage: areLater,
  isFetching: readsLater,
} = importFamilies(
  toRef(props, 'id'),
  computed(() => d.value?.nextFamilies),
)
const families = computed(() => [...(d.value?.families ?? []), ...(later.value?.pages.flatMap((p) => p.items) ?? [])])
const groups = computed(() => grouped(fonts.value, families.value))

/** The first fonts are read without being asked for: what has to be decided may stand anywhere. */
const mostRead = 3000
watchEffect(() => {
  if (hasNextPage.value && !reads.value && items.value.length < mostRead) void fetchNextPage()
})
const concerns: { value: Concern | ''; label: string }[] = [
  { value: '', label: 'All' },
  { value: 'decide', label: 'To resolve' },
  { value: 'mind', label: 'Warnings' },
  { value: 'new', label: 'New' },
  { value: 'known', label: 'Duplicates' },
]
const only = ref<Concern | ''>('')
const count = (c: Concern | '') => groups.value.filter((g) => !c || concern(g.items) === c).length
const shown = computed(() => groups.value.filter((g) => !only.value || concern(g.items) === only.value))
/** With few fonts all of them are shown; with many, families are unfolded one by one. */
const few = computed(() => fonts.value.length <= 40)

const picked = reactive(new Set<string>())
const chosen = computed(() => groups.value.filter((g) => picked.has(g.key)))
const open = (gs: Group[]) => gs.flatMap((g) => g.items.filter((i) => !i.taken).map((i) => i.id))
const pickAll = (on: boolean) => shown.value.forEach((g) => (on ? picked.add(g.key) : picked.delete(g.key)))
const fresh = computed(() => fonts.value.some((i) => !i.taken && !i.marked && i.outcome !== 'same'))

watchEffect(() => {
  if (areLater.value && !readsLater.value && groups.value.some((g) => !g.metadata)) void laterFamilies()
})

const sending = computed(() => uploads(props.id))
const sent = computed(() => {
  const files = sending.value?.files ?? []
  const total = files.reduce((n, f) => n + f.file.size, 0)
  const gone = files.reduce((n, f) => n + (f.done ? f.file.size : f.sent), 0)
  const seconds = (Date.now() - (sending.value?.since ?? 0)) / 1000
  return {
    share: total ? Math.round((100 * gone) / total) : 100,
    done: files.filter((f) => f.done).length,
    all: files.length,
    speed: seconds > 1 ? gone / seconds : 0,
    troubles: files.filter((f) => f.trouble),
  }
})
const busy = computed(() => sent.value.done < sent.value.all && !sending.value?.stopped)

const touched = ['imports', 'families']
const mark = change(
  (body: Schemas['ImportChange']) =>
    dataOf(api.PATCH('/imports/{id}/items', { params: { path: { id: props.id } }, body })),
  touched,
)
const accept = change(() => dataOf(api.POST('/imports/{id}/accept', { params: { path: { id: props.id } } })), touched)
const down = change(() => dataOf(api.DELETE('/imports/{id}', { params: { path: { id: props.id } } })), touched)

function more(files: { file: File; path: string }[]) {
  void uploadAll(props.id, files).then(() => renew(queries, ['imports']))
}
async function discard() {
  const says =
    'Fonts that are not imported stay out of the catalog, and what is under way stops. What is imported stays.'
  if (!(await sure('Discard this import?', says, 'Discard'))) return
  stop(props.id)
  await down.mutateAsync(undefined)
}

/** The family whose fonts are being changed. */
const editing = ref('')
const edit = reactive({ client: '', origin: '' as Schemas['Origin'] | '', family: '' })
function begin(group: Group) {
  editing.value = editing.value === group.key ? '' : group.key
  Object.assign(edit, { client: group.client.name, origin: group.items[0]?.origin ?? '', family: group.name })
}
async function apply(group: Group) {
  await trouble.guard(async () => {
    const family = edit.family.trim() !== group.name ? edit.family.trim() : undefined
    await mark.mutateAsync({ items: open([group]), client: edit.client, origin: edit.origin || undefined, family })
    editing.value = ''
  })
}
/** The folders of a path, with their last slash. */
const folder = (path: string) => path.slice(0, path.lastIndexOf('/') + 1)
const kinds: Record<string, string> = { document: 'Document', 'left-out': 'Skipped', refused: 'Unreadable' }
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-if="d">
      <div class="head row">
        <h1>{{ d.title }}</h1>
        <span class="state" :class="importStates[d.state].tone">{{ importStates[d.state].label }}</span>
      </div>
      <p class="soft">
        For {{ d.client.name }}, {{ label(origins, d.origin).toLowerCase() }}; {{ bytes(d.bytes) }}. {{ d.createdBy }},
        <TimeAgo :at="d.createdAt" />.
      </p>
      <div v-if="busy" class="row bar">
        <ElProgress :percentage="sent.share" :stroke-width="10" class="grow" /><span class="small soft"
          >{{ sent.done }} of {{ sent.all }} sent<template v-if="sent.speed"
            >, {{ bytes(sent.speed) }} a second</template
          ></span
        ><ElButton size="small" @click="stop(id)">Stop upload</ElButton>
      </div>
      <p v-if="d.unpacking" class="small" role="status">
        {{ d.unpacking }} {{ d.unpacking > 1 ? 'archives are' : 'archive is' }} being unpacked …
      </p>
      <div v-if="d.state === 'accepting'" class="row bar" role="status">
        <ElProgress
          :percentage="Math.round((100 * d.counts.taken) / Math.max(1, d.counts.taken + d.counts.marked))"
          :stroke-width="10"
          class="grow"
        /><span class="small soft">{{ d.counts.taken }} of {{ d.counts.taken + d.counts.marked }} imported</span>
      </div>
      <p v-for="u in sent.troubles" :key="u.path" role="alert" class="alarm small">{{ u.path }}: {{ u.trouble }}</p>

      <div class="row sheet verdict-bar">
        <span data-sum
          >{{ some(d.counts.fonts, 'font') }}: {{ d.counts.marked }} selected, {{ d.counts.taken }} already imported.
          Also {{ some(d.counts.documents, 'document') }}, {{ d.counts.leftOut }} skipped,
          {{ d.counts.refused }} unreadable.</span
        >
        <span v-if="may" class="row">
          <ElButton
            v-if="d.counts.marked || fresh || !d.counts.fonts || d.state === 'finished'"
            type="primary"
            :disabled="!d.counts.marked || busy || d.unpacking > 0"
            :loading="accept.isPending.value"
            @click="accept.mutate(undefined)"
            >Import {{ some(d.counts.marked, 'font') }}</ElButton
          >
          <ElButton
            v-else
            type="primary"
            :disabled="busy || d.unpacking > 0"
            :loading="accept.isPending.value"
            @click="accept.mutate(undefined)"
            >Finish: nothing new</ElButton
          >
          <ElButton v-if="d.state === 'open'" @click="discard">Discard</ElButton>
        </span>
      </div>
      <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>

      <p v-if="d.counts.taken" class="small">
        <RouterLink :to="`/gaps?import=${d.id}`">Missing details of its families</RouterLink>
      </p>
      <div v-if="groups.length > 1" class="row small filter">
        <label v-for="c in concerns" :key="c.value" class="row"
          ><input v-model="only" type="radio" name="concern" :value="c.value" :disabled="!count(c.value)" />{{
            c.label
          }}
          ({{ count(c.value) }})</label
        >
        <label v-if="may && open(shown).length" class="row"
          ><input
            type="checkbox"
            :checked="shown.every((g) => picked.has(g.key))"
            @change="pickAll(($event.target as HTMLInputElement).checked)"
          />Select all shown</label
        >
        <span v-if="hasNextPage" class="soft">Loading the rest …</span>
      </div>
      <ImportBulk
        v-if="may && chosen.length"
        :families="chosen.length"
        :fonts="open(chosen).length"
        @change="(body) => mark.mutate({ ...body, items: open(chosen) })"
      />
      <ImportGroup
        v-for="g in shown"
        :key="g.key"
        :group="g"
        :may="may"
        :open="few"
        :picked="picked.has(g.key)"
        @update:picked="(on) => (on ? picked.add(g.key) : picked.delete(g.key))"
        @change="(body) => mark.mutate(body)"
        @edit="begin(g)"
      >
        <form v-if="editing === g.key" class="row sheet" @submit.prevent="apply(g)">
          <ElSelect v-model="edit.client" class="pick" aria-label="Client of these fonts"
            ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name"
          /></ElSelect>
          <ElSelect v-model="edit.origin" class="pick" aria-label="Origin of these fonts"
            ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label"
          /></ElSelect>
          <ElInput v-model="edit.family" class="pick" maxlength="200" aria-label="Family of these fonts" />
          <ElButton type="primary" native-type="submit">Change {{ some(open([g]).length, 'font') }}</ElButton>
          <span class="soft small">Your choice is remembered for later imports of these fonts.</span>
        </form>
      </ImportGroup>

      <template v-if="rest.length">
        <h2>Other files</h2>
        <ul class="list">
          <li v-for="i in rest" :key="i.id" class="item" :data-outcome="i.kind">
            <span class="small" :class="i.kind === 'refused' ? 'alarm' : 'soft'">{{ kinds[i.kind] }}</span>
            <span
              ><span class="soft small file">{{ folder(i.path) }}</span
              ><strong class="file">{{ i.path.slice(folder(i.path).length) }}</strong>
              <span class="soft small">{{ bytes(i.bytes) }}</span></span
            >
            <span>{{ i.kind === 'document' ? 'Added to the families of the fonts in the same folder.' : i.why }}</span>
          </li>
        </ul>
      </template>
      <ElButton v-if="hasNextPage" @click="fetchNextPage()">More</ElButton>
      <DropZone v-if="may" @files="more" />
    </template>
  </div>
</template>

<style scoped>
.head {
  align-items: center;
}
.state.review {
  color: var(--caution);
}
.state.cleared {
  color: var(--good);
}
.bar {
  margin-bottom: 0.5rem;
}
.grow {
  flex: 1;
}
.verdict-bar {
  margin-bottom: 1rem;
  justify-content: space-between;
}
.pick {
  width: 13rem;
}
.filter {
  gap: 0.3rem 1.2rem;
  margin: 0.4rem 0 0.8rem;
}
.filter label {
  gap: 0.35rem;
}
.item {
  display: grid;
  grid-template-columns: 4rem minmax(0, 1fr) minmax(0, 1fr);
  gap: 0.2rem 1rem;
  padding: 0.45rem 0;
  align-items: start;
}
.note {
  grid-column: 3;
}
.file {
  overflow-wrap: anywhere;
}
strong.file {
  font-weight: 600;
}
.soft.file {
  display: block;
}
.alarm {
  color: var(--bad);
}
.review {
  color: var(--caution);
}
@media (max-width: 46rem) {
  .item {
    grid-template-columns: 3rem 1fr;
  }
  .item > :nth-child(n + 3) {
    grid-column: 2;
  }
}
</style>
