<script setup lang="ts">
import { ElButton, ElCheckbox, ElInput, ElPopover } from 'element-plus'
import { ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, searches } from '../../api/queries'
import { offerUndo } from '../../composables/undo'

/** Searches kept under a name: take one up, keep this one, drop one. */
const props = defineProps<{ line: string }>()
const emit = defineEmits<{ take: [query: string] }>()
const { data: kept } = searches()
const name = ref('')
const shared = ref(false)
const save = change(
  () => data(api.POST('/searches', { body: { name: name.value, query: props.line, shared: shared.value } })),
  ['searches'],
  () => (name.value = ''),
)
const back = change((body: Schemas['NewSavedSearch']) => data(api.POST('/searches', { body })), ['searches'])
const drop = change(
  async (s: Schemas['SavedSearch']) => {
    await data(api.DELETE('/searches/{id}', { params: { path: { id: s.id } } }))
    offerUndo(`${s.name} deleted.`, () => back.mutate({ name: s.name, query: s.query, shared: s.shared }))
  },
  ['searches'],
)
</script>

<template>
  <ElPopover trigger="click" :width="340" placement="bottom-end">
    <template #reference
      ><ElButton
        >Saved searches<template v-if="kept?.items.length"> ({{ kept.items.length }})</template></ElButton
      ></template
    >
    <ul class="list">
      <li v-for="s in kept?.items ?? []" :key="s.id" class="row kept">
        <ElButton link type="primary" @click="emit('take', s.query)">{{ s.name }}</ElButton>
        <span v-if="!s.own" class="soft small">{{ s.person }}</span>
        <ElButton v-else link :aria-label="`Delete ${s.name}`" @click="drop.mutate(s)">Delete</ElButton>
      </li>
    </ul>
    <p v-if="!kept?.items.length" class="soft small">
      No saved searches yet. Search for something, then save it under a name.
    </p>
    <form v-if="line" class="keep" @submit.prevent="save.mutate(undefined)">
      <ElInput v-model="name" placeholder="Name for this search" aria-label="Name for this search" maxlength="200" />
      <div class="row">
        <ElCheckbox v-model="shared">Share with everybody</ElCheckbox
        ><ElButton native-type="submit" type="primary" :disabled="!name.trim()" :loading="save.isPending.value"
          >Save search</ElButton
        >
      </div>
    </form>
  </ElPopover>
</template>

<style scoped>
.kept {
  justify-content: space-between;
  padding: 0.25rem 0;
  flex-wrap: nowrap;
}
.kept > :first-child {
  white-space: normal;
  text-align: left;
  height: auto;
}
.keep {
  display: grid;
  gap: 0.4rem;
  border-top: 1px solid var(--rule);
  padding-top: 0.6rem;
  margin-top: 0.4rem;
}
.keep .row {
  justify-content: space-between;
}
</style>
