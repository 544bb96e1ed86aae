<script setup lang="ts">
import { ElAlert, ElButton } from 'element-plus'
import { ref, toRef } from 'vue'
import { api, data } from '../../api/client'
import { change, liveStylesheets } from '../../api/queries'
import TimeAgo from '../shared/TimeAgo.vue'
import { sure } from '../../composables/ask'

/** URLs under which Spare Crate serves the site's stylesheet and fonts. */
const props = defineProps<{ id: number }>()
const { data: sheets } = liveStylesheets(toRef(props, 'id'))
const line = ref('')
const make = change(
  () => data(api.POST('/sites/{id}/live', { params: { path: { id: props.id } } })),
  ['sites'],
  (l) => (line.value = `<link rel="stylesheet" href="${location.origin}${l.path}">`),
)
const revoke = change(
  (sheetId: number) => api.DELETE('/sites/{id}/live/{sheetId}', { params: { path: { id: props.id, sheetId } } }),
  ['sites'],
)
async function ask(id: number) {
  const says = 'Pages that load it show fallback fonts. This cannot be undone; a new one has another URL.'
  if (await sure(`Revoke live stylesheet ${id}?`, says, 'Revoke')) revoke.mutate(id)
}
</script>

<template>
  <section>
    <h2>Live stylesheets</h2>
    <p class="soft small">
      A stylesheet with fonts served by Spare Crate, for prototypes and previews. Its visitors are counted. Families
      that are not cleared stop it.
    </p>
    <ul class="list">
      <li v-for="l in sheets ?? []" :key="l.id" class="row line">
        <span>Live stylesheet {{ l.id }}</span
        ><span class="soft small">made by {{ l.createdBy }}, <TimeAgo :at="l.createdAt" /></span
        ><ElButton size="small" text :aria-label="`Revoke live stylesheet ${l.id}`" @click="ask(l.id)">Revoke</ElButton>
      </li>
    </ul>
    <ElButton @click="make.mutate(undefined)">Create a live stylesheet</ElButton>
    <ElAlert
      v-if="line"
      type="success"
      :title="line"
      description="Put this line in the head of the page. Its URL stays at the top of the site's pages."
      class="made"
      @close="line = ''"
    />
    <p v-if="line" class="small">
      When it is in place, <RouterLink :to="`/sites/${id}/inspections`">inspect the published pages</RouterLink>.
    </p>
  </section>
</template>

<style scoped>
.line {
  padding: 0.3rem 0;
}
.made {
  margin-top: 0.6rem;
  overflow-wrap: anywhere;
}
</style>
