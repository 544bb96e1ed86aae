<script setup lang="ts">
import { ElButton, ElFormItem, ElInput } from 'element-plus'
import { ref, watch } from 'vue'
import { api, data } from '../../api/client'
import { change, studio } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { some } from '../../composables/show'

/** The studio's name, as the first of its clients has it. */
const { data: s } = studio()
const name = ref('')
const trouble = useTrouble()
watch(s, (now, was) => now && (!was || name.value === was.client.name) && (name.value = now.client.name), {
  immediate: true,
})
const put = change(
  () =>
    data(
      api.PATCH('/clients/{id}', { params: { path: { id: s.value!.client.id } }, body: { name: name.value.trim() } }),
    ),
  ['clients', 'studio', 'families', 'sites', 'licenses'],
  undefined,
  true,
)
</script>

<template>
  <form v-if="s" class="studio" @submit.prevent="trouble.guard(() => put.mutateAsync(undefined))">
    <ElFormItem label="Name of the studio" label-position="top" :error="trouble.text.value">
      <ElInput v-model="name" maxlength="200" aria-label="Name of the studio" />
    </ElFormItem>
    <ElButton
      native-type="submit"
      type="primary"
      :loading="put.isPending.value"
      :disabled="!name.trim() || name.trim() === s.client.name"
      >Save</ElButton
    >
    <p class="soft small">
      {{ some(s.clients, 'client') }}, {{ some(s.families, 'family', 'families') }}, {{ some(s.licenses, 'license') }},
      {{ some(s.sites, 'site') }}, {{ some(s.packs, 'pack') }}. Packs that were built keep the name they were built
      with.
    </p>
  </form>
</template>

<style scoped>
.studio {
  max-width: 30rem;
}
</style>
