<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, toRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Schemas } from '../api/client'
import { change, me, shortlist } from '../api/queries'
import FamilyPicker from '../components/shared/FamilyPicker.vue'
import FamilyStrip from '../components/family/FamilyStrip.vue'
import SampleControls from '../components/shared/SampleControls.vue'
import ShortlistShares from '../components/shortlist/ShortlistShares.vue'
import Trouble from '../components/shared/Trouble.vue'
import { reordered } from '../composables/order'
import { sure } from '../composables/ask'

/** A shortlist: its families in order, changed by dragging or with the keys beside them. */
const props = defineProps<{ id: number }>()
const router = useRouter()
const { data: l, error } = shortlist(toRef(props, 'id'))
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const order = ref<Schemas['FamilySummary'][]>([])
watch(l, (now) => (order.value = now ? [...now.families] : []), { immediate: true })
const dragged = ref<number>()
const added = ref<number>()

const save = change(
  (families: number[]) =>
    data(
      api.PATCH('/shortlists/{id}', {
        params: { path: { id: props.id }, header: { 'If-Match': l.value!.etag } },
        body: { families },
      }),
    ),
  ['shortlists'],
  (saved) => {
    if (saved.families.some((f) => f.id === added.value)) added.value = undefined
  },
)
const drop = change(
  () => data(api.DELETE('/shortlists/{id}', { params: { path: { id: props.id } } })),
  ['shortlists'],
  () => void router.push('/shortlists'),
)
const keep = () => save.mutate(order.value.map((f) => f.id))
function over(to: number) {
  if (dragged.value === undefined || dragged.value === to) return
  order.value = reordered(order.value, dragged.value, to)
  dragged.value = to
}
function move(from: number, to: number) {
  order.value = reordered(order.value, from, to)
  keep()
}
function end() {
  dragged.value = undefined
  if (order.value.some((f, i) => f.id !== l.value?.families[i]?.id)) keep()
}
async function askToDrop() {
  const says = 'Its links stop working. The families stay in the catalog.'
  if (await sure(`Delete ${l.value?.name}?`, says, 'Delete')) drop.mutate(undefined)
}
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="l">
      <div class="head">
        <div>
          <p class="soft small crumb"><RouterLink to="/shortlists">Shortlists</RouterLink> / {{ l.client.name }}</p>
          <h1>{{ l.name }}</h1>
          <p v-if="l.note" class="soft note">{{ l.note }}</p>
        </div>
        <ElButton v-if="mayEdit" @click="askToDrop">Delete this shortlist</ElButton>
      </div>
      <SampleControls />
      <ol class="picks">
        <li
          v-for="(f, i) in order"
          :key="f.id"
          class="pick"
          :class="{ dragged: dragged === i }"
          :draggable="mayEdit"
          @dragstart="dragged = i"
          @dragover.prevent="over(i)"
          @dragend="end"
          @drop.prevent
        >
          <div v-if="mayEdit" class="places">
            <button type="button" :disabled="i === 0" :aria-label="`Move ${f.name} up`" @click="move(i, i - 1)">
              ↑
            </button>
            <button
              type="button"
              :disabled="i === order.length - 1"
              :aria-label="`Move ${f.name} down`"
              @click="move(i, i + 1)"
            >
              ↓
            </button>
            <button type="button" :aria-label="`Remove ${f.name}`" @click="(order.splice(i, 1), keep())">×</button>
          </div>
          <FamilyStrip :family="f" plain />
        </li>
      </ol>
      <p v-if="!order.length" class="soft">No families yet.</p>
      <form v-if="mayEdit" class="row" @submit.prevent="added && save.mutate([...order.map((f) => f.id), added])">
        <FamilyPicker
          v-model="added"
          label="Family to add"
          placeholder="Choose a family"
          :except="order.map((f) => f.id)"
          class="choose"
        />
        <ElButton native-type="submit" :disabled="!added">Add</ElButton>
      </form>
      <ShortlistShares :key="l.id" :list="l" :may-edit="mayEdit" />
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>

<style scoped>
.crumb,
.note {
  margin: 0 0 0.2rem;
}
.picks {
  list-style: none;
  margin: 0.8rem 0 0;
  padding: 0;
}
.pick {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 0.8rem;
  align-items: center;
}
.pick[draggable='true'] {
  cursor: grab;
}
.dragged {
  opacity: 0.5;
}
.places {
  display: grid;
}
.places button {
  width: 2rem;
  height: 1.6rem;
  border: 1px solid var(--rule);
  background: var(--sheet);
  color: var(--ink);
  cursor: pointer;
}
.places button:disabled {
  opacity: 0.35;
  cursor: default;
}
.choose {
  max-width: 24rem;
}
</style>
