<script setup lang="ts">
import { ElButton, ElForm, ElFormItem, ElOption, ElSelect } from 'element-plus'
import { reactive, ref } from 'vue'
import { api, base, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { useTrouble } from '../../composables/form'
import { draftOf, recipeOf } from '../../composables/recipe'
import { bytes } from '../../composables/show'
import RecipeFields from './RecipeFields.vue'
import VerdictTag from '../shared/VerdictTag.vue'

/** Makes another font of a face: smaller, static, with other outlines or another name. */
const props = defineProps<{ fileId: number; metadata: Schemas['Metadata']; familyId: number }>()
const draft = ref(draftOf())
const order = reactive<{ format: Schemas['FileFormat'] }>({ format: 'woff2' })
const formats = ['woff2', 'woff', 'ttf', 'otf', 'eot'] as const
const made = ref<Schemas['Reshaped']>()
const trouble = useTrouble()
const make = change(
  () =>
    data(
      api.POST('/files/{id}/reshape', {
        params: { path: { id: props.fileId } },
        body: {
          place: props.metadata.index,
          format: order.format,
          recipe: recipeOf(draft.value),
          family: props.familyId,
        },
      }),
    ),
  ['jobs'],
  (out) => (made.value = out),
  true,
)
function submit() {
  made.value = undefined
  return trouble.guard(() => make.mutateAsync(undefined))
}
</script>

<template>
  <ElForm label-position="top" class="reshape" @submit.prevent="submit">
    <RecipeFields v-model="draft" :metadata="metadata" />
    <div class="row">
      <ElFormItem label="As" class="as"
        ><ElSelect v-model="order.format" aria-label="Format"
          ><ElOption v-for="c in formats" :key="c" :value="c" :label="c.toUpperCase()" /></ElSelect
      ></ElFormItem>
      <ElButton type="primary" native-type="submit" :loading="make.isPending.value">Create file</ElButton>
    </div>
  </ElForm>
  <p v-if="trouble.text.value" role="alert" class="alarm">{{ trouble.text.value }}</p>
  <div v-if="made" class="made" data-made>
    <p class="row">
      <a :href="`${base}/files/${fileId}/reshaped/${made.hash}`" :download="made.name"
        ><strong>{{ made.name }}</strong></a
      ><span
        >{{ bytes(made.bytes) }}, from {{ bytes(made.from) }}; {{ made.glyphs }} of {{ made.glyphsBefore }} glyphs</span
      >
    </p>
    <p class="small soft">{{ made.fullName }}, PostScript name {{ made.postScriptName }}</p>
    <p v-if="made.missing" class="small alarm">Not in the font: {{ made.missing }}</p>
    <p v-if="made.dropped.length" class="small soft">Left out: {{ made.dropped.join(', ') }}</p>
    <p v-for="r in made.reasons" :key="r.code" class="small">
      <VerdictTag :state="r.state" /> {{ r.message }} <span class="soft">{{ r.evidence }}</span>
    </p>
  </div>
</template>

<style scoped>
.reshape {
  max-width: 56rem;
  padding-top: 0.4rem;
}
.row {
  align-items: end;
}
.as {
  width: 8rem;
  margin-bottom: 0;
}
.alarm {
  color: var(--bad);
}
.made p {
  margin: 0.3rem 0;
}
</style>
