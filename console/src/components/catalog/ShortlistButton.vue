<script setup lang="ts">
import { ElButton, ElInput, ElPopover } from 'element-plus'
import { ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, clients, shortlists } from '../../api/queries'
import { some } from '../../composables/show'

/** Puts families at the end of a shortlist, or on a new one. */
const props = defineProps<{ families: number[]; client?: string }>()
const emit = defineEmits<{ done: [] }>()
const open = ref(false)
const name = ref('')
const { data: lists } = shortlists(ref(''))
const { data: known } = clients()
const done = () => {
  open.value = false
  name.value = ''
  emit('done')
}
const add = change(
  (l: Schemas['Shortlist']) =>
    data(
      api.PATCH('/shortlists/{id}', {
        params: { path: { id: l.id }, header: { 'If-Match': l.etag } },
        body: { families: [...new Set([...l.families.map((f) => f.id), ...props.families])] },
      }),
    ),
  ['shortlists'],
  done,
)
const start = change(
  () =>
    data(
      api.POST('/shortlists', {
        body: {
          name: name.value,
          client: props.client ?? known.value?.items.find((c) => c.studio)?.name,
          families: props.families,
        },
      }),
    ),
  ['shortlists'],
  done,
)
</script>

<template>
  <ElPopover v-model:visible="open" trigger="click" :width="320" placement="bottom-start">
    <template #reference><ElButton>Add to a shortlist</ElButton></template>
    <p class="soft small">{{ some(families.length, 'family', 'families') }} to the end of</p>
    <ul class="list">
      <li v-for="l in lists ?? []" :key="l.id">
        <ElButton link type="primary" @click="add.mutate(l)">{{ l.name }}</ElButton>
        <span class="soft small">{{ l.client.name }}</span>
      </li>
    </ul>
    <form class="row" @submit.prevent="start.mutate(undefined)">
      <ElInput
        v-model="name"
        placeholder="New shortlist"
        aria-label="Name of a new shortlist"
        maxlength="200"
      /><ElButton native-type="submit" :disabled="!name.trim()">Create</ElButton>
    </form>
  </ElPopover>
</template>

<style scoped>
p {
  margin: 0 0 0.3rem;
}
li {
  padding: 0.25rem 0;
}
form {
  margin-top: 0.5rem;
  flex-wrap: nowrap;
}
</style>
