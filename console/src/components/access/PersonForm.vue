<script setup lang="ts">
import { ElButton, ElDialog, ElForm, ElFormItem, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive, ref, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { asChange, limitsOf, noLimits } from '../../composables/limits'
import PersonLimits from './PersonLimits.vue'

/** Changes what a person is called, may do, and sees. */
const props = defineProps<{ person: Schemas['Person'] }>()
const open = defineModel<boolean>({ required: true })
const form = reactive({ name: '', role: 'viewer' as Schemas['Role'] })
const limits = ref(noLimits())
const trouble = useTrouble()
watch(
  open,
  (now) => {
    if (!now) return
    Object.assign(form, { name: props.person.name, role: props.person.role })
    limits.value = limitsOf(props.person)
  },
  { immediate: true },
)
const save = change(
  () => {
    const body = { name: form.name, role: form.role, ...asChange(limits.value) }
    return data(api.PATCH('/people/{id}', { params: { path: { id: props.person.id } }, body }))
  },
  ['people', 'session'],
  () => (open.value = false),
  true,
)
</script>

<template>
  <ElDialog v-model="open" :title="`Change ${person.name}`" width="min(40rem, 94vw)">
    <ElForm label-position="top" @submit.prevent="trouble.guard(() => save.mutateAsync(undefined))">
      <p v-if="trouble.text.value" role="alert" class="trouble">{{ trouble.text.value }}</p>
      <ElFormItem label="Name"><ElInput v-model="form.name" aria-label="Name of the person" /></ElFormItem>
      <ElFormItem label="Role"
        ><ElSelect v-model="form.role" aria-label="Role of the person"
          ><ElOption v-for="r in ['guest', 'viewer', 'editor', 'admin']" :key="r" :value="r" :label="r" /></ElSelect
      ></ElFormItem>
      <ElFormItem label="Sees"><PersonLimits v-model="limits" :role="form.role" :whose="person.name" /></ElFormItem>
      <p class="soft small">When what a person sees changes, their sessions end and they sign in again.</p>
      <div class="row end"><ElButton type="primary" native-type="submit">Save</ElButton></div>
    </ElForm>
  </ElDialog>
</template>

<style scoped>
.trouble {
  color: var(--bad);
}
.end {
  justify-content: flex-end;
}
</style>
