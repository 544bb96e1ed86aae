<script setup lang="ts">
import { ElButton, ElCheckbox, ElFormItem, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import { loads, formats, fors, forms, namings, sends, shapes, uploads, values } from '../../composables/builder'
import { roles } from '../../composables/roles'

/** The fields of builder rules; what is wrong stands beside the field it is about. */
const rules = defineModel<Schemas['BuilderRules']>({ required: true })
const props = defineProps<{ wrong: Schemas['WrongRule'][] }>()
const at = (field: string) =>
  props.wrong
    .filter((w) => w.field === field || w.field.startsWith(`${field}.`))
    .map((w) => w.message)
    .join(' ')
const kilobytes = computed({
  get: () => Math.round((rules.value.files.maxBytes ?? 0) / 1000),
  set: (n) => (rules.value.files.maxBytes = (n ?? 0) * 1000),
})
const hasForm = computed({
  get: () => !!rules.value.form,
  set: (on: boolean) =>
    (rules.value.form = on ? { fields: [{ label: 'Name', value: 'full', same: true }], save: 'Save' } : undefined),
})
type Role = NonNullable<Schemas['BuilderRules']['roles']>[number]
const roleOf = (role: string): Role => rules.value.roles?.find((r) => r.role === role) ?? { role }
function setRole(role: string, change: Partial<Role>) {
  const now = { ...roleOf(role), ...change }
  rules.value.roles = [...(rules.value.roles ?? []).filter((r) => r.role !== role), now]
}
</script>

<template>
  <fieldset>
    <legend>About</legend>
    <ElFormItem label="Name" :error="at('name')"><ElInput v-model="rules.name" maxlength="120" /></ElFormItem>
    <ElFormItem label="Description" :error="at('about')"
      ><ElInput v-model="rules.about" type="textarea" :rows="2" maxlength="500"
    /></ElFormItem>
    <ElFormItem label="Required license use" :error="at('for')"
      ><ElSelect v-model="rules.for" aria-label="Required license use"
        ><ElOption v-for="o in fors" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
    ></ElFormItem>
  </fieldset>
  <fieldset>
    <legend>Files</legend>
    <ElFormItem label="Accepted formats, preferred first" :error="at('files.formats')"
      ><ElSelect v-model="rules.files.formats" multiple aria-label="Formats"
        ><ElOption v-for="c in formats" :key="c" :value="c" :label="c.toUpperCase()" /></ElSelect
    ></ElFormItem>
    <div class="pair">
      <ElFormItem label="Formats to include" :error="at('files.include')"
        ><ElSelect v-model="rules.files.include" aria-label="Formats to include"
          ><ElOption v-for="o in sends" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
      ></ElFormItem>
      <ElFormItem label="Upload" :error="at('files.upload')"
        ><ElSelect v-model="rules.files.upload" aria-label="Upload"
          ><ElOption v-for="o in uploads" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
      ></ElFormItem>
      <ElFormItem label="File names" :error="at('files.named')"
        ><ElSelect v-model="rules.files.named" aria-label="File names"
          ><ElOption v-for="o in namings" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
      ></ElFormItem>
      <ElFormItem label="Size limit per file in kB (0: none)" :error="at('files.maxBytes')"
        ><ElInputNumber v-model="kilobytes" :min="0" :step="100" aria-label="Size limit per file in kB"
      /></ElFormItem>
      <ElFormItem label="Folder in the pack" :error="at('files.folder')"
        ><ElInput v-model="rules.files.folder" placeholder="fonts"
      /></ElFormItem>
    </div>
    <ElCheckbox v-model="rules.files.variable" label="Accepts variable fonts" />
    <ElCheckbox v-model="rules.files.parts" label="Accepts a face in several files, by characters" />
    <p v-if="at('files.parts')" class="wrong small">{{ at('files.parts') }}</p>
  </fieldset>
  <fieldset>
    <legend>Form</legend>
    <ElCheckbox v-model="hasForm" label="Asks for form fields with each file" />
    <p v-if="at('form')" class="wrong small">{{ at('form') }}</p>
    <template v-if="rules.form">
      <div v-for="(f, i) in rules.form.fields" :key="i" class="row field">
        <ElInput v-model="f.label" placeholder="Label" :aria-label="`Label of field ${i + 1}`" class="label" />
        <ElSelect v-model="f.value" :aria-label="`Value of field ${i + 1}`" class="value"
          ><ElOption v-for="o in values" :key="o.value" :value="o.value" :label="o.label"
        /></ElSelect>
        <ElCheckbox v-model="f.same" label="must match the file name and the font's name" />
        <ElButton size="small" text :aria-label="`Take field ${i + 1} away`" @click="rules.form.fields.splice(i, 1)"
          >Remove</ElButton
        >
      </div>
      <ElButton size="small" @click="rules.form.fields.push({ label: '', value: 'weight' })">Add a field</ElButton>
      <ElFormItem label="Confirm button label"><ElInput v-model="rules.form.save" maxlength="100" /></ElFormItem>
    </template>
    <ElFormItem label="Families" :error="at('families')"
      ><ElSelect v-model="rules.families" aria-label="Families"
        ><ElOption v-for="o in shapes" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
    ></ElFormItem>
  </fieldset>
  <fieldset>
    <legend>Styles and URLs</legend>
    <ElFormItem label="Where styles go" :error="at('styles.form')"
      ><ElSelect v-model="rules.styles.form" aria-label="Where styles go"
        ><ElOption v-for="o in forms" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
    ></ElFormItem>
    <ElFormItem label="Where to put them" :error="at('styles.where')"
      ><ElInput v-model="rules.styles.where" maxlength="300" placeholder="in the head of every page"
    /></ElFormItem>
    <ElFormItem label="Ways to load a stylesheet" :error="at('styles.load')"
      ><ElSelect v-model="rules.styles.load" multiple aria-label="Load by"
        ><ElOption v-for="o in loads" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
    ></ElFormItem>
    <ElCheckbox
      v-if="rules.styles.form === 'linked' || rules.styles.perFace"
      v-model="rules.styles.perFace"
      label="A stylesheet for each face"
    />
    <ElCheckbox v-model="rules.styles.eachPage" label="On each page" />
    <ElCheckbox v-model="rules.styles.override" label="Override platform styles" />
    <ElCheckbox v-model="rules.urls.after" label="File URLs are known only after the upload" />
    <ElCheckbox v-model="rules.urls.relative" label="Relative URLs work" />
    <p v-if="at('urls.after') || at('urls.relative')" class="wrong small">
      {{ at('urls.after') }} {{ at('urls.relative') }}
    </p>
    <ElFormItem label="Path of the folder, if relative URLs do not work" :error="at('urls.prefix')"
      ><ElInput v-model="rules.urls.prefix" placeholder="/assets/"
    /></ElFormItem>
  </fieldset>
  <fieldset>
    <legend>Roles</legend>
    <p v-if="at('roles')" class="wrong small">{{ at('roles') }}</p>
    <table class="plain small">
      <thead>
        <tr>
          <th>Role</th>
          <th>Selector</th>
          <th>Form field</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in roles" :key="r.value">
          <td>{{ r.label }}</td>
          <td>
            <ElInput
              :model-value="roleOf(r.value).selector"
              size="small"
              :aria-label="`Selector of ${r.label}`"
              @update:model-value="(selector: string) => setRole(r.value, { selector })"
            />
          </td>
          <td>
            <ElInput
              :model-value="roleOf(r.value).choose"
              size="small"
              :aria-label="`Field of ${r.label}`"
              @update:model-value="(choose: string) => setRole(r.value, { choose })"
            />
          </td>
        </tr>
      </tbody>
    </table>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 1px solid var(--rule);
  background: var(--sheet);
  padding: 0.6rem 1rem 0.9rem;
  margin: 0 0 1rem;
  min-width: 0;
}
legend {
  font-weight: 650;
  padding: 0 0.4rem;
}
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(13rem, 1fr));
  gap: 0 1rem;
}
.field {
  margin: 0.3rem 0;
}
.label {
  width: 11rem;
}
.value {
  width: 11rem;
}
.wrong {
  color: var(--bad);
  margin: 0.2rem 0;
}
</style>
