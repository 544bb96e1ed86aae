<script setup lang="ts">
import { ElButton, ElDialog, ElForm, ElFormItem, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Schemas } from '../../api/client'
import { builders, change } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { sure } from '../../composables/ask'

/** The outlets of a site: the site itself, and further builders that its fonts go out through. */
const props = defineProps<{ site: Schemas['Site']; mayEdit: boolean }>()
const route = useRoute()
const router = useRouter()
const { data: kinds } = builders()
const home = computed(() => props.site.outletOf?.id ?? props.site.id)
const all = computed(() => [
  { id: home.value, name: props.site.outletOf?.name ?? props.site.name, builder: '' },
  ...props.site.outlets.map((o) => ({ id: o.id, name: o.name, builder: o.builder.name })),
])
/** The same page of another outlet; roles and guide are the site's. */
function to(id: number) {
  const page = /\/(pack|roles|guide)$/.exec(route.path)?.[0] ?? ''
  return `/sites/${id}${id !== home.value && page !== '/pack' ? '' : page}`
}

const open = ref(false)
const name = ref('')
const kind = ref('')
const trouble = useTrouble()
watch(open, (now) => {
  if (!now) return
  trouble.clear()
  name.value = ''
  kind.value = ''
})
const add = change(
  () =>
    data(
      api.POST('/sites/{id}/outlets', {
        params: { path: { id: home.value } },
        body: { name: name.value, builder: kind.value },
      }),
    ),
  ['sites', 'families'],
  (o) => {
    open.value = false
    void router.push(`/sites/${o.id}/pack`)
  },
  true,
)
const remove = change(
  () =>
    data(
      api.DELETE('/sites/{id}/outlets/{outletId}', {
        params: { path: { id: home.value, outletId: props.site.id } },
      }),
    ),
  ['sites', 'families'],
)
async function ask() {
  const says =
    `${props.site.outlet} is deleted with its pages, file URLs, live stylesheets, sign-offs and packs. ` +
    'This cannot be undone. What is published stays published.'
  if (!(await sure(`Delete the outlet ${props.site.outlet}?`, says, 'Delete the outlet'))) return
  await router.push(`/sites/${home.value}`)
  await remove.mutateAsync(undefined)
}
</script>

<template>
  <nav v-if="site.outlets.length || mayEdit" class="outlets small" aria-label="Outlets">
    <template v-if="site.outlets.length">
      <span class="soft">Outlets</span>
      <RouterLink
        v-for="o in all"
        :key="o.id"
        :to="to(o.id)"
        :class="{ here: o.id === site.id }"
        :title="o.builder"
        :aria-current="o.id === site.id ? 'page' : undefined"
        >{{ o.name }}</RouterLink
      >
    </template>
    <ElButton v-if="mayEdit" size="small" text @click="open = true">Add an outlet</ElButton>
    <ElButton v-if="mayEdit && site.outletOf" size="small" text @click="ask">Delete this outlet</ElButton>
  </nav>
  <ElDialog v-model="open" title="Add an outlet" width="min(30rem, 94vw)" append-to-body>
    <ElForm label-position="top" @submit.prevent="trouble.guard(() => add.mutateAsync(undefined))">
      <p class="small soft about">
        Another platform for the fonts of {{ site.outletOf?.name ?? site.name }} , with its own pages, file URLs and
        packs. Families and roles belong to the site.
      </p>
      <ElFormItem label="Name" :error="trouble.at('name')"
        ><ElInput v-model="name" maxlength="60" placeholder="App" aria-label="Name of the outlet"
      /></ElFormItem>
      <ElFormItem label="Builder" :error="trouble.at('builder')">
        <ElSelect v-model="kind" filterable aria-label="Builder of the outlet"
          ><ElOption v-for="b in kinds?.items ?? []" :key="b.rules.kind" :value="b.rules.kind" :label="b.rules.name"
        /></ElSelect>
        <span class="soft small">{{ kinds?.items.find((b) => b.rules.kind === kind)?.rules.about }}</span>
      </ElFormItem>
      <p v-if="trouble.text.value && !trouble.field.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <div class="row">
        <ElButton type="primary" native-type="submit" :loading="add.isPending.value">Add</ElButton
        ><ElButton @click="open = false">Cancel</ElButton>
      </div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.outlets {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.3rem 0.6rem;
  margin-bottom: 0.7rem;
}
.outlets a {
  border: 1px solid var(--rule);
  border-radius: 1rem;
  padding: 0.1rem 0.7rem;
  text-decoration: none;
}
.outlets a.here {
  border-color: var(--sea);
  background: var(--sheet);
  font-weight: 600;
}
.about {
  margin: 0 0 0.8rem;
}
.trouble {
  color: var(--bad);
}
</style>
