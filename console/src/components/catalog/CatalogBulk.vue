<script setup lang="ts">
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu, ElInput, ElMessage, ElPopover } from 'element-plus'
import { computed, ref } from 'vue'
import { LicenseForm } from '../forms'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { origins, some } from '../../composables/show'
import { offerUndo } from '../../composables/undo'
import ShortlistButton from './ShortlistButton.vue'

/** What can be done with the families that are selected in the catalog. */
const props = defineProps<{ families: Schemas['FamilySummary'][]; mayEdit: boolean; all: number }>()
const emit = defineEmits<{ clear: []; selectAll: [] }>()
const tags = ref('')
const tagging = ref(false)
const recording = ref(false)
const ids = computed(() => props.families.map((f) => f.id))
const compare = computed(() => `/compare?${ids.value.map((id) => `id=${id}`).join('&')}`)

const send = (body: Schemas['FamiliesChange']) => data(api.POST('/families/change', { body }))
const back = change(send, ['families'])
/** The change, and how it is taken back: null where it cannot be. */
interface Doing {
  body: Omit<Schemas['FamiliesChange'], 'families'>
  done: string
  undo?: () => void
}
const apply = change(
  async (d: Doing) => {
    const result = await send({ families: ids.value, ...d.body })
    const n = result.done.length
    const said = `${some(n, 'family', 'families')} ${d.done}.`
    if (n && d.undo) offerUndo(said, d.undo)
    else if (n) ElMessage.success(said)
    for (const r of result.refused) ElMessage.warning(`${r.family.name}: ${r.why}`)
  },
  ['families'],
  () => {
    tags.value = ''
    tagging.value = false
  },
)
function retire() {
  const families = ids.value
  apply.mutate({
    body: { retired: true },
    done: 'retired',
    undo: () => back.mutate({ families, retired: false }),
  })
  emit('clear')
}
function setOrigin(origin: Schemas['Origin']) {
  // Each family gets back the origin that it had.
  const before = new Map<Schemas['Origin'], number[]>()
  for (const f of props.families) before.set(f.origin, [...(before.get(f.origin) ?? []), f.id])
  apply.mutate({
    body: { origin },
    done: 'changed',
    undo: () => {
      for (const [was, families] of before) back.mutate({ families, origin: was })
    },
  })
}
const addTags = () =>
  apply.mutate({
    body: {
      tags: tags.value
        .split(',')
        .map((t) => t.trim())
        .filter(Boolean),
    },
    done: 'tagged',
  })
</script>

<template>
  <div class="bulk sheet row" role="region" aria-label="Selected families">
    <strong>{{ some(families.length, 'family', 'families') }} selected</strong>
    <ElButton v-if="all > families.length" link type="primary" @click="emit('selectAll')"
      >Select all {{ all }} shown</ElButton
    >
    <RouterLink v-if="families.length > 1" :to="compare">Compare</RouterLink>
    <template v-if="mayEdit">
      <ShortlistButton :families="ids" @done="emit('clear')" />
      <ElPopover v-model:visible="tagging" trigger="click" :width="300">
        <template #reference><ElButton>Add tags</ElButton></template>
        <form class="row tags" @submit.prevent="addTags">
          <ElInput v-model="tags" placeholder="Tags, with commas" aria-label="Tags" maxlength="300" />
          <ElButton type="primary" native-type="submit" :disabled="!tags.trim()">Add</ElButton>
        </form>
      </ElPopover>
      <ElDropdown trigger="click" @command="setOrigin">
        <template #default><ElButton>Set origin</ElButton></template>
        <template #dropdown
          ><ElDropdownMenu
            ><ElDropdownItem v-for="o in origins" :key="o.value" :command="o.value">{{
              o.label
            }}</ElDropdownItem></ElDropdownMenu
          ></template
        >
      </ElDropdown>
      <ElButton @click="recording = true">Record a license</ElButton>
      <ElButton @click="retire">Retire</ElButton>
    </template>
    <ElButton link type="primary" class="clear" @click="emit('clear')">Clear selection</ElButton>
    <LicenseForm v-model="recording" :families="families" :client="families[0]?.client.id" />
  </div>
</template>

<style scoped>
.bulk {
  z-index: 3;
  padding: 0.5rem 0.9rem;
}
.tags {
  flex-wrap: nowrap;
}
.clear {
  margin-left: auto;
}
</style>
