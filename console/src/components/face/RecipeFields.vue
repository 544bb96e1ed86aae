<script setup lang="ts">
import { ElCheckbox, ElFormItem, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { characterSets, languages } from '../../api/queries'
import { choosing } from '../../composables/form'
import type { Draft } from '../../composables/recipe'

/** What is to become of a face, or of all faces of a family where no metadata are given. */
const props = defineProps<{ metadata?: Schemas['Metadata']; forPack?: boolean }>()
const draft = defineModel<Draft>({ required: true })
const { data: sets } = characterSets()
const { data: spoken } = languages()
const widely = computed(() => spoken.value?.items.filter((l) => l.widely) ?? [])
const axes = computed(() => props.metadata?.axes ?? [])
/** The commonest; others can be typed. */
const locals = ['arial', 'georgia', 'times-new-roman', 'verdana', 'courier-new']
const postScript = computed(() => !props.metadata || props.metadata.outlines !== 'truetype')
</script>

<template>
  <div class="fields" @keydown.enter.capture="choosing" @keypress.enter.capture="choosing">
    <ElFormItem label="Character sets">
      <ElSelect
        v-model="draft.keep"
        multiple
        filterable
        allow-create
        default-first-option
        placeholder="All, or latin, pl, script:Greek"
        aria-label="Character sets"
      >
        <ElOption v-for="s in sets?.items ?? []" :key="s.name" :value="s.name" :label="`${s.name}: ${s.for}`" />
        <ElOption v-for="l in widely" :key="l.code" :value="l.code" :label="`${l.name} (${l.code})`" />
      </ElSelect>
    </ElFormItem>
    <ElFormItem label="Also the characters of this text"
      ><ElInput v-model="draft.text" maxlength="2000" aria-label="Also the characters of this text"
    /></ElFormItem>
    <ElFormItem label="Layout features">
      <ElSelect v-model="draft.features" aria-label="Layout features"
        ><ElOption value="keep" label="All that still apply" /><ElOption
          value="basic"
          label="Basic: what browsers apply by default"
      /></ElSelect>
    </ElFormItem>
    <template v-if="axes.length">
      <ElFormItem v-if="metadata!.instances.length" label="Named instance">
        <ElSelect v-model="draft.instance" clearable placeholder="None" aria-label="Named instance"
          ><ElOption v-for="i in metadata!.instances" :key="i.name" :value="i.name" :label="i.name"
        /></ElSelect>
      </ElFormItem>
      <ElFormItem v-for="a in axes" :key="a.tag" :label="`${a.name || a.tag} (${a.min} to ${a.max})`">
        <ElInputNumber
          v-model="draft.at[a.tag]"
          :min="a.min"
          :max="a.max"
          :disabled="!!draft.instance"
          :value-on-clear="null"
          :placeholder="String(a.default)"
          controls-position="right"
          :aria-label="`Axis ${a.tag}`"
        />
      </ElFormItem>
    </template>
    <ElFormItem v-else-if="!metadata" label="Axis values of variable faces"
      ><ElInput v-model="draft.pinned" placeholder="wght=700" aria-label="Axis values of variable faces"
    /></ElFormItem>
    <ElFormItem label="Rename the family"
      ><ElInput v-model="draft.family" maxlength="63" placeholder="Unchanged" aria-label="Rename the family"
    /></ElFormItem>
    <ElFormItem v-if="postScript" label="Outlines"
      ><ElCheckbox v-model="draft.retype" label="Convert to TrueType outlines"
    /></ElFormItem>
    <ElFormItem v-if="axes.length || postScript" label="Rounding">
      <ElSelect v-model="draft.rounding" aria-label="Rounding">
        <ElOption value="needed" label="Automatic" />
        <ElOption value="fine" label="Finer grid: more precise, larger file" />
        <ElOption value="whole" label="Font's own grid: smaller file" />
      </ElSelect>
    </ElFormItem>
    <template v-if="forPack">
      <ElFormItem label="Split by characters">
        <ElSelect
          v-model="draft.split"
          multiple
          filterable
          allow-create
          default-first-option
          placeholder="One file per face"
          aria-label="Split by characters"
        >
          <ElOption v-for="s in sets?.items ?? []" :key="s.name" :value="s.name" :label="`${s.name}: ${s.for}`" />
          <ElOption value="rest" label="rest: all other characters" />
        </ElSelect>
      </ElFormItem>
      <ElFormItem label="Fallback fonts with matching metrics">
        <ElSelect
          v-model="draft.against"
          multiple
          filterable
          allow-create
          default-first-option
          placeholder="None"
          aria-label="Fallback fonts with matching metrics"
        >
          <ElOption v-for="name in locals" :key="name" :value="name" :label="name" />
        </ElSelect>
      </ElFormItem>
      <ElFormItem v-if="draft.against.length" label="Language of the text">
        <ElSelect v-model="draft.language" filterable aria-label="Language of the text"
          ><ElOption v-for="l in widely" :key="l.code" :value="l.code" :label="`${l.name} (${l.code})`"
        /></ElSelect>
      </ElFormItem>
      <ElFormItem v-if="draft.against.length" label="Line breaks"
        ><ElCheckbox v-model="draft.alike" label="Keep line breaks: letters of the fallback font differ in size"
      /></ElFormItem>
    </template>
  </div>
</template>

<style scoped>
.fields :deep(.el-checkbox) {
  height: auto;
  min-height: 32px;
  white-space: normal;
  align-items: center;
  line-height: 1.3;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(14rem, 1fr));
  gap: 0 1rem;
}
</style>
