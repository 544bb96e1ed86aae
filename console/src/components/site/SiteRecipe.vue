<script setup lang="ts">
import { ElButton, ElDialog, ElForm } from 'element-plus'
import { computed, ref, toRef, watch } from 'vue'
import { api, data, message, type Schemas } from '../../api/client'
import { change, sizes } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { draftOf, recipeOf } from '../../composables/recipe'
import { bytes } from '../../composables/show'
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
/** What is measured: the recipe as it stands, once it has stood for a moment. */
const tried = ref(recipeOf(draft.value))
watch(
  [used, draft],
  (_, [before], onCleanup) => {
    const wait = setTimeout(() => (tried.value = recipeOf(draft.value)), before === used.value ? 600 : 0)
    onCleanup(() => clearTimeout(wait))
  },
  { deep: true },
)
const { data: size, error: unmeasured } = sizes(
  toRef(props, 'site'),
  computed(() => used.value?.family.id),
  tried,
)
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
        Packs for this site include the family with these changes. The verdict shows if the font or its license does not
        allow them.
      </p>
      <RecipeFields v-model="draft" for-pack />
      <section aria-label="Sizes" aria-live="polite" class="small sizes">
        <p v-if="unmeasured" class="alarm">{{ message(unmeasured) }}</p>
        <table v-else-if="size" class="plain">
          <thead>
            <tr>
              <th>Face</th>
              <th class="num">Now</th>
              <th class="num">With changes</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="f in size.items" :key="f.face">
              <td>{{ f.style }}</td>
              <td class="num">{{ bytes(f.before) }}</td>
              <td class="num">{{ f.pending ? 'measuring …' : bytes(f.after) }}</td>
            </tr>
            <tr v-if="size.items.length > 1">
              <th>Together</th>
              <th class="num">{{ bytes(size.before) }}</th>
              <th class="num">{{ size.pending ? 'measuring …' : bytes(size.after) }}</th>
            </tr>
          </tbody>
        </table>
        <p v-else class="soft">Measuring …</p>
      </section>
      <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="save.isPending.value">Save</ElButton>
        <ElButton @click="trouble.guard(() => save.mutateAsync({}))">No changes</ElButton>
        <ElButton text @click="open = false">Cancel</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.sizes {
  max-height: 30vh;
  overflow: auto;
  margin-bottom: 0.8rem;
}
.alarm {
  color: var(--bad);
}
</style>
