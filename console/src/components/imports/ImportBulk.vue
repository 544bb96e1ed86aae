<script setup lang="ts">
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { reactive } from 'vue'
import type { Schemas } from '../../api/client'
import { clients } from '../../api/queries'
import { origins, some } from '../../composables/show'

/** Changes what is chosen of an import at once. */
defineProps<{ families: number; fonts: number }>()
const emit = defineEmits<{ change: [body: Schemas['ImportChange']] }>()
const { data: known } = clients()
const edit = reactive({ client: '', origin: '' as Schemas['Origin'] | '', tags: '' })

function apply() {
  const tags = edit.tags
    .split(',')
    .map((t) => t.trim())
    .filter(Boolean)
  emit('change', {
    client: edit.client || undefined,
    origin: edit.origin || undefined,
    tags: tags.length ? tags : undefined,
  })
  Object.assign(edit, { client: '', origin: '', tags: '' })
}
</script>

<template>
  <form class="row sheet bulk" aria-label="Change selected fonts" @submit.prevent="apply">
    <strong>{{ some(families, 'family', 'families') }}, {{ some(fonts, 'font') }}</strong>
    <ElButton @click="emit('change', { mark: true })">Select</ElButton>
    <ElButton @click="emit('change', { mark: false })">Skip</ElButton>
    <ElSelect v-model="edit.client" class="pick" placeholder="Client" clearable aria-label="Client of selected fonts"
      ><ElOption v-for="c in known?.items ?? []" :key="c.id" :value="c.name" :label="c.name"
    /></ElSelect>
    <ElSelect v-model="edit.origin" class="pick" placeholder="Origin" clearable aria-label="Origin of selected fonts"
      ><ElOption v-for="o in origins" :key="o.value" :value="o.value" :label="o.label"
    /></ElSelect>
    <ElInput
      v-model="edit.tags"
      class="pick"
      placeholder="Tags, with commas"
      maxlength="300"
      aria-label="Tags of selected fonts"
    />
    <ElButton type="primary" native-type="submit" :disabled="!edit.client && !edit.origin && !edit.tags.trim()"
      >Apply</ElButton
    >
  </form>
</template>

<style scoped>
.pick {
  width: 11rem;
}
</style>
