<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ElButton, ElCheckbox, ElInput, ElMessageBox, ElOption, ElProgress, ElSelect } from 'element-plus'
import { computed, reactive, ref, toRef, watch, watchEffect } from 'vue'
import { api, data as dataOf, type Schemas } from '../api/client'
import { change, clients, delivery, deliveryFamilies, deliveryItems, me } from '../api/queries'
import DropZone from '../components/intake/DropZone.vue'
import Trouble from '../components/shared/Trouble.vue'
import { useTrouble } from '../state/form'
import { bytes, deliveryStates, label, origins, some, when } from '../state/show'
import { sendAll, stop, uploads } from '../state/uploads'

/** What arrived together, looked through before it is taken in. */
const props = defineProps<{ id: number }>()
type Item = Schemas['DeliveryItem']
const queries = useQueryClient()
const { data: d, error } = delivery(toRef(props, 'id'))
const { data: pages, fetchNextPage, hasNextPage, refetch } = deliveryItems(toRef(props, 'id'))
watch(d, () => void refetch()) // what became of the delivery became of its things
const { data: known } = clients()
const { data: person } = me()
const items = computed(() => pages.value?.pages.flatMap((p) => p.items) ?? [])
const fonts = computed(() => items.value.filter((i) => i.kind === 'font'))
const rest = computed(() => items.value.filter((i) => i.kind !== 'font' && i.kind !== 'archive'))
const may = computed(
  () => person.value?.role !== 'viewer' && !!d.value && (d.value.state === 'open' || d.value.state === 'settled'),
)
const trouble = useTrouble()

/** What is known of families beyond the delivery's first page of them is read as their fonts come into view. */
const {
  data: later,
  fetchNextPage: laterFamilies,
  hasNextPage: areLater,
  isFetching: readsLater,
} = deliveryFamilies(
  toRef(props, 'id'),
  computed(() => d.value?.nextFamilies),
)
const families = computed(() => [...(d.value?.families ?? []), ...(later.value?.pages.flatMap((p) => p.items) ?? [])])
/** Fonts by the family they go into, in the order of the delivery. */
const groups = computed(() => {
  const out = new Map<
    string,
    { name: string; client: Schemas['Ref']; items: Item[]; facts?: Schemas['DeliveryFamily'] }
  >()
  for (const i of fonts.value) {
    const key = `${i.client!.id} ${i.family!.toLowerCase()}`
    const group = out.get(key) ?? {
      name: i.family!,
      client: i.client!,
      items: [],
      facts: families.value.find(
        (f) => f.client.id === i.client!.id && f.name.toLowerCase() === i.family!.toLowerCase(),
      ),
    }
    group.items.push(i)
    out.set(key, group)
  }
  return [...out.values()]
})

watchEffect(() => {
  if (areLater.value && !readsLater.value && groups.value.some((g) => !g.facts)) void laterFamilies()
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

const touched = ['deliveries', 'families']
const mark = change(
  (body: Schemas['DeliveryChange']) =>
    dataOf(api.PATCH('/deliveries/{id}/items', { params: { path: { id: props.id } }, body })),
  touched,
)
const accept = change(
  () => dataOf(api.POST('/deliveries/{id}/accept', { params: { path: { id: props.id } } })),
  touched,
)
const down = change(() => dataOf(api.DELETE('/deliveries/{id}', { params: { path: { id: props.id } } })), touched)

function more(files: { file: File; path: string }[]) {
  void sendAll(props.id, files).then(() => queries.invalidateQueries({ queryKey: ['deliveries'] }))
}
async function turnDown() {
  try {
    await ElMessageBox.confirm(
      'Fonts that are not taken in stay out of the catalog, and what is under way stops. What is taken in stays.',
      'Turn this delivery down?',
      { confirmButtonText: 'Turn it down', cancelButtonText: 'Leave it open' },
    )
  } catch {
    return
  }
  stop(props.id)
  await down.mutateAsync(undefined)
}

/** The family whose fonts are being changed. */
const editing = ref('')
const edit = reactive({ client: '', origin: '' as Schemas['Origin'] | '', family: '' })
function begin(name: string, group: { client: Schemas['Ref']; items: Item[] }) {
  editing.value = editing.value === name ? '' : name
  Object.assign(edit, { client: group.client.name, origin: group.items[0].origin ?? '', family: name })
}
async function apply(group: { name: string; items: Item[] }) {
  await trouble.guard(async () => {
    const open = group.items.filter((i) => !i.taken).map((i) => i.id)
    const family = edit.family.trim() !== group.name ? edit.family.trim() : undefined
    await mark.mutateAsync({ items: open, client: edit.client, origin: edit.origin || undefined, family })
    editing.value = ''
  })
}
/** The folders of a path, with their last slash. */
const folder = (path: string) => path.slice(0, path.lastIndexOf('/') + 1)
const kinds: Record<string, string> = { paper: 'Paper', 'left-out': 'Left out', refused: 'Refused' }
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-if="d">
      <div class="head row">
        <h1>{{ d.title }}</h1>
        <span class="state" :class="deliveryStates[d.state].tone">{{ deliveryStates[d.state].label }}</span>
      </div>
      <p class="soft">
        For {{ d.client.name }}, {{ label(origins, d.origin).toLowerCase() }}; {{ bytes(d.bytes) }}. {{ d.createdBy }},
        {{ when(d.createdAt) }}.
      </p>
      <div v-if="busy" class="row bar">
        <ElProgress :percentage="sent.share" :stroke-width="10" class="grow" /><span class="small soft"
          >{{ sent.done }} of {{ sent.all }} sent<template v-if="sent.speed"
            >, {{ bytes(sent.speed) }} a second</template
          ></span
        ><ElButton size="small" @click="stop(id)">Stop sending</ElButton>
      </div>
      <p v-if="d.unpacking" class="small" role="status">
        {{ d.unpacking }} {{ d.unpacking > 1 ? 'archives are' : 'archive is' }} being unpacked …
      </p>
      <div v-if="d.state === 'accepting'" class="row bar" role="status">
        <ElProgress
          :percentage="Math.round((100 * d.counts.taken) / Math.max(1, d.counts.taken + d.counts.marked))"
          :stroke-width="10"
          class="grow"
        /><span class="small soft">{{ d.counts.taken }} of {{ d.counts.taken + d.counts.marked }} taken in</span>
      </div>
      <p v-for="u in sent.troubles" :key="u.path" role="alert" class="alarm small">{{ u.path }}: {{ u.trouble }}</p>

      <div class="row sheet verdict-bar">
        <span data-sum
          >{{ some(d.counts.fonts, 'font') }}: {{ d.counts.marked }} marked, {{ d.counts.taken }} in the catalog.
          Besides, {{ some(d.counts.papers, 'paper') }}, {{ d.counts.leftOut }} left out,
          {{ d.counts.refused }} refused.</span
        >
        <span v-if="may" class="row">
          <ElButton
            type="primary"
            :disabled="!d.counts.marked || busy || d.unpacking > 0"
            :loading="accept.isPending.value"
            @click="accept.mutate(undefined)"
            >Take in {{ some(d.counts.marked, 'font') }}</ElButton
          >
          <ElButton v-if="d.state === 'open'" @click="turnDown">Turn down</ElButton>
        </span>
      </div>
      <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>

      <section v-for="g in groups" :key="`${g.client.id} ${g.name}`" class="group" :data-family="g.name">
        <div class="row">
          <h2>
            <RouterLink v-if="g.facts?.family" :to="`/families/${g.facts.family.id}`">{{ g.name }}</RouterLink><template
              v-else
              >{{ g.name }}</template
            >
          </h2>
          <span class="soft small"
            >{{ g.client.name }}, {{ label(origins, g.items[0].origin ?? 'unknown').toLowerCase()
            }}{{ g.facts && !g.facts.family ? '; a new family' : '' }}</span
          >
          <ElButton v-if="may && g.items.some((i) => !i.taken)" size="small" text @click="begin(g.name, g)"
            >Change</ElButton
          >
        </div>
        <p v-for="w in g.facts?.warnings ?? []" :key="w" class="query small">{{ w }}</p>
        <form v-if="editing === g.name" class="row sheet" @submit.prevent="apply(g)">
          <ElSelect v-model="edit.client" class="pick" aria-label="Client of these fonts"
            ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name"
          /></ElSelect>
          <ElSelect v-model="edit.origin" class="pick" aria-label="Origin of these fonts"
            ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label"
          /></ElSelect>
          <ElInput v-model="edit.family" class="pick" maxlength="200" aria-label="Family of these fonts" />
          <ElButton type="primary" native-type="submit"
            >Change {{ some(g.items.filter((i) => !i.taken).length, 'font') }}</ElButton
          >
          <span class="soft small"
            >Another family is remembered: fonts that name this one go there when they come again.</span
          >
        </form>
        <ul class="list">
          <li v-for="i in g.items" :key="i.id" class="item" :data-outcome="i.outcome" :data-taken="i.taken">
            <ElCheckbox
              v-if="may && !i.taken"
              :model-value="i.marked"
              :aria-label="`Take in ${i.path}`"
              @change="(on) => mark.mutate({ items: [i.id], mark: !!on })"
            />
            <span v-else class="soft small">{{ i.taken ? 'in' : i.marked ? '…' : 'out' }}</span>
            <span
              ><span class="soft small file">{{ folder(i.path) }}</span
              ><strong class="file">{{ i.path.slice(folder(i.path).length) }}</strong>
              <span class="soft small">{{ i.faces.join(', ') }}, {{ bytes(i.bytes) }}</span></span
            >
            <span
              >{{ i.why }}
              <RouterLink v-if="i.taken || (i.outcome === 'same' && i.familyId)" :to="`/families/${i.familyId}`"
                >Open {{ i.family }}</RouterLink
              ></span
            >
            <template v-if="i.outcome !== 'same'"
              ><span v-for="p in i.problems" :key="p" class="small query note">{{ p }}</span></template
            >
          </li>
        </ul>
      </section>

      <template v-if="rest.length">
        <h2>Besides</h2>
        <ul class="list">
          <li v-for="i in rest" :key="i.id" class="item" :data-outcome="i.kind">
            <span class="small" :class="i.kind === 'refused' ? 'alarm' : 'soft'">{{ kinds[i.kind] }}</span>
            <span
              ><span class="soft small file">{{ folder(i.path) }}</span
              ><strong class="file">{{ i.path.slice(folder(i.path).length) }}</strong>
              <span class="soft small">{{ bytes(i.bytes) }}</span></span
            >
            <span>{{
              i.kind === 'paper' ? 'Kept with the families of the fonts beside it, once those are taken in.' : i.why
            }}</span>
          </li>
        </ul>
      </template>
      <ElButton v-if="hasNextPage" @click="fetchNextPage()">More of it</ElButton>
      <DropZone v-if="may" @files="more" />
    </template>
  </div>
</template>

<style scoped>
.head {
  align-items: center;
}
.state.query {
  color: var(--query);
}
.state.clear {
  color: var(--clear);
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
.group {
  margin-bottom: 1.4rem;
}
.group h2 {
  margin: 0;
}
.pick {
  width: 13rem;
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
  color: var(--barred);
}
.query {
  color: var(--query);
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
