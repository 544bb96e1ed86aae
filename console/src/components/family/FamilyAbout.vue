<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, searchWords } from '../../api/queries'
import { choosing } from '../../composables/form'
import { origins, some, when } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** What people say of a family, and where it is kept. */
const props = defineProps<{ family: Schemas['Family']; mayEdit: boolean }>()
const { data: words } = searchWords()
const editing = ref(false)
const form = reactive({
  origin: 'unknown' as Schemas['Origin'],
  designer: '',
  foundry: '',
  tags: [] as string[],
  note: '',
})
const path = computed(() => ({ path: { id: props.family.id }, header: { 'If-Match': props.family.etag } }))
const save = change(
  (body: Schemas['FamilyChange']) => data(api.PATCH('/families/{id}', { params: path.value, body })),
  ['families'],
  () => (editing.value = false),
)
const remove = change(() => data(api.DELETE('/families/{id}', { params: path.value })), ['families', 'sites'])
const back = change(
  () => data(api.POST('/families/{id}/restore', { params: { path: { id: props.family.id } } })),
  ['families', 'sites'],
)

function edit() {
  const { origin, designer, foundry, tags, note } = props.family
  Object.assign(form, { origin, designer, foundry, tags: [...tags], note })
  editing.value = true
}
async function askToRemove() {
  const f = props.family
  const used = f.sites.map((s) => `the site ${s.name}`).join(', ')
  const sites = used ? `It is used by ${used}; these sites get no packs until it is restored. ` : 'No site uses it. '
  const named = [
    ...f.shortlists.map((l) => `the shortlist ${l.name}`),
    ...(f.licenses.length ? [some(f.licenses.length, 'license')] : []),
  ]
  const lists = named.length ? `It is on ${named.join(', ')}. ` : ''
  const has = `${f.name} has ${some(f.faces.length, 'face')}.`
  const question = `${has} ${sites}${lists}It can be restored for 30 days.`
  if (await sure(`Delete ${f.name}?`, question, 'Delete')) remove.mutate(undefined)
}
</script>

<template>
  <div v-if="family.status !== 'active'" class="sheet row gone" role="status">
    <p>
      <strong>{{ family.status === 'deleted' ? 'Deleted' : 'Retired' }}</strong> by {{ family.statusBy }},
      <TimeAgo :at="family.statusAt!" />.
      <template v-if="family.goneAt"
        >It can be restored until {{ when(family.goneAt) }}; sites that use it get no packs until then.</template
      >
      <template v-else>It is hidden from lists. Sites that use it keep it.</template>
    </p>
    <ElButton
      v-if="mayEdit"
      type="primary"
      @click="family.status === 'deleted' ? back.mutate(undefined) : save.mutate({ retired: false })"
      >Restore</ElButton
    >
  </div>
  <form
    v-if="editing"
    class="sheet edit"
    @keydown.enter.capture="choosing"
    @keypress.enter.capture="choosing"
    @submit.prevent="save.mutate({ ...form })"
  >
    <label
      ><span class="soft small">Origin</span
      ><ElSelect v-model="form.origin" aria-label="Origin"
        ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
    ></label>
    <label
      ><span class="soft small">Designer</span><ElInput v-model="form.designer" maxlength="200" aria-label="Designer"
    /></label>
    <label
      ><span class="soft small">Foundry</span><ElInput v-model="form.foundry" maxlength="200" aria-label="Foundry"
    /></label>
    <label class="wide"
      ><span class="soft small">Tags</span>
      <ElSelect
        v-model="form.tags"
        multiple
        filterable
        allow-create
        default-first-option
        placeholder="Tags"
        aria-label="Tags"
        ><ElOption v-for="t in words?.tags ?? []" :key="t.tag" :value="t.tag" :label="t.tag" /></ElSelect
    ></label>
    <label class="wide"
      ><span class="soft small">Note</span
      ><ElInput v-model="form.note" type="textarea" :autosize="{ minRows: 2 }" maxlength="5000" aria-label="Note"
    /></label>
    <div class="row wide">
      <ElButton native-type="submit" type="primary" :loading="save.isPending.value">Save</ElButton
      ><ElButton @click="editing = false">Cancel</ElButton>
    </div>
  </form>
  <div v-else class="row said">
    <dl class="metadata">
      <dt>Origin</dt>
      <dd :class="{ alarm: family.origin === 'unknown' }">
        {{ origins.find((o) => o.value === family.origin)?.label }}
      </dd>
      <template v-if="family.designer"
        ><dt>Designer</dt>
        <dd>{{ family.designer }}</dd></template
      >
      <template v-if="family.foundry"
        ><dt>Foundry</dt>
        <dd>{{ family.foundry }}</dd></template
      >
      <template v-if="family.tags.length"
        ><dt>Tags</dt>
        <dd>
          <RouterLink v-for="t in family.tags" :key="t" class="tag" :to="{ path: '/families', query: { tag: t } }">{{
            t
          }}</RouterLink>
        </dd></template
      >
      <template v-if="family.note"
        ><dt>Note</dt>
        <dd class="note">{{ family.note }}</dd></template
      >
    </dl>
    <div v-if="mayEdit && family.status !== 'deleted'" class="row">
      <ElButton @click="edit">Edit</ElButton>
      <ElButton v-if="family.status === 'active'" @click="save.mutate({ retired: true })">Retire</ElButton>
      <ElButton type="danger" plain @click="askToRemove">Delete</ElButton>
    </div>
  </div>
</template>

<style scoped>
.gone {
  justify-content: space-between;
  border-left: 4px solid var(--caution);
  margin-bottom: 0.8rem;
}
.gone p {
  margin: 0;
  flex: 1 1 20rem;
}
.said {
  justify-content: space-between;
  align-items: start;
  margin-bottom: 0.9rem;
}
.said dl {
  flex: 1 1 22rem;
}
.edit {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(13rem, 1fr));
  gap: 0.7rem 1rem;
  margin-bottom: 0.9rem;
}
.edit label {
  display: grid;
}
.wide {
  grid-column: 1 / -1;
}
.tag {
  display: inline-block;
  border: 1px solid var(--rule);
  padding: 0 0.5rem;
  margin-right: 0.4rem;
  text-decoration: none;
  background: var(--sheet);
}
.note {
  white-space: pre-line;
}
.alarm {
  color: var(--bad);
  font-weight: 600;
}
</style>
