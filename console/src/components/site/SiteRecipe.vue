<script setup lang="ts">
import { ElButton, ElDialog, ElForm } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../state/form'
import { draftOf, recipeOf } from '../../state/recipe'
import RecipeFields from '../face/RecipeFields.vue'

/** Says how packs for a site reshape a family. */
const props = defineProps<{ site: number }>()
const used = defineModel<Schemas['SiteFamily']>()
const open = computed({
  get: () => !!used.value,
  set: (on) => {
    if (!on) used.value = undefined
  },
})
const draft = ref(draftOf())
const trouble = useTrouble()
watch(used, (now) => {
  trouble.clear()
  draft.value = draftOf(now?.recipe)
})
const save = change(
  (recipe: Schemas['Recipe']) =>
    data(
      api.PUT('/sites/{id}/families/{familyId}', {
        params: { path: { id: props.site, familyId: used.value!.family.id } },
        body: { recipe },
      }),
    ),
  ['sites'],
  () => (open.value = false),
  true,
)
</script>

<template>
  <ElDialog
    v-model="open"
    :title="used ? `${used.family.name} in packs` : ''"
    width="min(46rem, 94vw)"
    top="8vh"
    append-to-body
  >
    <ElForm label-position="top" @submit.prevent="trouble.guard(() => save.mutateAsync(recipeOf(draft)))">
      <p class="soft small">
        Packs for this site hold the family reshaped like this. What the font or its license says against it shows in
        the verdict.
      </p>
      <RecipeFields v-model="draft" delivery />
      <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="save.isPending.value">Save</ElButton>
        <ElButton @click="trouble.guard(() => save.mutateAsync({}))">As it came</ElButton>
        <ElButton text @click="open = false">Leave</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.alarm {
  color: var(--barred);
}
</style>
