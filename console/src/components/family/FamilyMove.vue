<script setup lang="ts">
import { ElButton, ElFormItem, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, toRef } from 'vue'
import { useRouter } from 'vue-router'
import { api, data, type Schemas } from '../../api/client'
import { change, familyChoices } from '../../api/queries'
import { choosing, useTrouble } from '../../composables/form'
import { some } from '../../composables/show'

/** Moves faces into another family of the same client: mends, splits or merges. */
const props = defineProps<{ family: Schemas['Family'] }>()
const router = useRouter()
const into = ref('')
const { data: found } = familyChoices(
  into,
  toRef(() => props.family.client.name),
)
const others = computed(() => found.value?.filter((n) => n.id !== props.family.id) ?? [])
const faces = ref<number[]>([])
const trouble = useTrouble()
const move = change(
  () =>
    data(
      api.POST('/families/{id}/move', {
        params: { path: { id: props.family.id } },
        body: { into: into.value, faces: faces.value.length ? faces.value : undefined },
      }),
    ),
  ['families', 'sites', 'licenses'],
  (f) => void router.push(`/families/${f.id}`),
  true,
)
const all = computed(() => !faces.value.length || faces.value.length === props.family.faces.length)
const does = computed(() => {
  const there = others.value.some((n) => n.name.toLowerCase() === into.value.trim().toLowerCase())
  if (all.value) return there ? 'Merge the two families' : 'Rename the family'
  return there ? `Move ${some(faces.value.length, 'face')}` : `Split off ${some(faces.value.length, 'face')}`
})
</script>

<template>
  <form
    class="row move"
    @keydown.enter.capture="choosing"
    @keypress.enter.capture="choosing"
    @submit.prevent="trouble.guard(() => move.mutateAsync(undefined))"
  >
    <ElFormItem label="Faces" class="field">
      <ElSelect
        v-model="faces"
        multiple
        filterable
        default-first-option
        placeholder="All of them"
        aria-label="Faces to move"
        ><ElOption v-for="f in family.faces" :key="f.id" :value="f.id" :label="f.style"
      /></ElSelect>
    </ElFormItem>
    <ElFormItem label="Into the family" class="field">
      <ElInput
        v-model="into"
        list="families-to-join"
        clearable
        placeholder="Family or new name"
        aria-label="Into the family"
      />
    </ElFormItem>
    <ElButton native-type="submit" :disabled="!into.trim()" :loading="move.isPending.value">{{ does }}</ElButton>
  </form>
  <datalist id="families-to-join"><option v-for="n in others" :key="n.id" :value="n.name" /></datalist>
  <p class="soft small">
    Later imports of {{ family.name }} go there too. Sites that use one family use the other too; a new family gets the
    same licenses.
  </p>
  <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
</template>

<style scoped>
.move {
  align-items: end;
}
.field {
  min-width: 16rem;
  margin-bottom: 0.5rem;
  display: block;
}
.move :deep(.el-button) {
  margin-bottom: 0.5rem;
}
.alarm {
  color: var(--bad);
}
</style>
