<script setup lang="ts">
import { ElButton, ElCheckbox, ElFormItem, ElInput, ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { loads, formats, fors, forms, namings, sends, shapes, uploads, values } from '../../composables/builder'
import { roles } from '../../composables/roles'

/** The fields of builder rules in steps; what is wrong stands at the field, and its step is marked. */
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
const steps = [
  { value: 'about', label: 'Name and use', fields: ['name', 'about', 'for'] },
  {
    value: 'accepts',
    label: 'Accepted files',
    fields: ['files.formats', 'files.include', 'files.maxBytes', 'files.parts'],
  },
  { value: 'upload', label: 'Upload and names', fields: ['files.upload', 'files.named', 'files.folder', 'families'] },
  { value: 'form', label: 'Form fields', fields: ['form'] },
  { value: 'styles', label: 'Styles', fields: ['styles'] },
  { value: 'after', label: 'URLs after upload', fields: ['urls'] },
  { value: 'roles', label: 'Roles', fields: ['roles'] },
] as const
const step = ref<(typeof steps)[number]['value']>('about')
const place = computed(() => steps.findIndex((s) => s.value === step.value))
const troubled = (s: (typeof steps)[number]) =>
  props.wrong.some((w) => s.fields.some((f) => w.field === f || w.field.startsWith(`${f}.`)))
const has = (f: string) => rules.value.files.formats.includes(f as (typeof formats)[number])
function setFormat(f: (typeof formats)[number], on: boolean) {
  const others = rules.value.files.formats.filter((o) => o !== f)
  rules.value.files.formats = on ? [...others, f] : others
}
const prefer = (f: (typeof formats)[number]) =>
  (rules.value.files.formats = [f, ...rules.value.files.formats.filter((o) => o !== f)])

type Role = NonNullable<Schemas['BuilderRules']['roles']>[number]
const roleOf = (role: string): Role => rules.value.roles?.find((r) => r.role === role) ?? { role }
function setRole(role: string, change: Partial<Role>) {
  const now = { ...roleOf(role), ...change }
  rules.value.roles = [...(rules.value.roles ?? []).filter((r) => r.role !== role), now]
}
</script>

<template>
  <div>
    <ol class="steps" aria-label="Steps">
      <li v-for="(s, i) in steps" :key="s.value">
        <button
          type="button"
          :aria-current="step === s.value ? 'step' : undefined"
          :class="{ troubled: troubled(s) }"
          @click="step = s.value"
        >
          {{ i + 1 }}. {{ s.label }}<span v-if="troubled(s)"> (check)</span>
        </button>
      </li>
    </ol>
    <fieldset v-show="step === 'about'">
      <legend>Name and use</legend>
      <ElFormItem label="Name" :error="at('name')"><ElInput v-model="rules.name" maxlength="120" /></ElFormItem>
      <ElFormItem label="When to choose it, in one sentence" :error="at('about')"
        ><ElInput v-model="rules.about" type="textarea" :rows="2" maxlength="500" aria-label="Description"
      /></ElFormItem>
      <ElFormItem label="Required license use" :error="at('for')"
        ><ElSelect v-model="rules.for" aria-label="Required license use"
          ><ElOption v-for="o in fors" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
      ></ElFormItem>
    </fieldset>
    <fieldset v-show="step === 'accepts'">
      <legend>Which files does the platform accept?</legend>
      <ElFormItem label="File formats" :error="at('files.formats')">
        <div class="formats">
          <div v-for="c in formats" :key="c" class="row format">
            <ElCheckbox :model-value="has(c)" :label="c.toUpperCase()" @change="setFormat(c, !!$event)" />
            <span v-if="rules.files.formats[0] === c" class="soft small">preferred</span>
            <ElButton v-else-if="has(c)" link type="primary" size="small" @click="prefer(c)">Prefer</ElButton>
          </div>
        </div>
      </ElFormItem>
      <div class="pair">
        <ElFormItem label="Formats to include" :error="at('files.include')"
          ><ElSelect v-model="rules.files.include" aria-label="Formats to include"
            ><ElOption v-for="o in sends" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="Size limit per file in kB (0: none)" :error="at('files.maxBytes')"
          ><ElInputNumber v-model="kilobytes" :min="0" :step="100" aria-label="Size limit per file in kB"
        /></ElFormItem>
      </div>
      <ElCheckbox v-model="rules.files.variable" label="Accepts variable fonts" />
      <ElCheckbox v-model="rules.files.parts" label="Accepts a face in several files, by characters" />
      <p v-if="at('files.parts')" class="wrong small">{{ at('files.parts') }}</p>
    </fieldset>
    <fieldset v-show="step === 'upload'">
      <legend>How are files uploaded and named?</legend>
      <div class="pair">
        <ElFormItem label="Upload" :error="at('files.upload')"
          ><ElSelect v-model="rules.files.upload" aria-label="Upload"
            ><ElOption v-for="o in uploads" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="File names" :error="at('files.named')"
          ><ElSelect v-model="rules.files.named" aria-label="File names"
            ><ElOption v-for="o in namings" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="Families" :error="at('families')"
          ><ElSelect v-model="rules.families" aria-label="Families"
            ><ElOption v-for="o in shapes" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
        ></ElFormItem>
        <ElFormItem label="Folder in the pack" :error="at('files.folder')"
          ><ElInput v-model="rules.files.folder" placeholder="fonts"
        /></ElFormItem>
      </div>
    </fieldset>
    <fieldset v-show="step === 'form'">
      <legend>What does the upload form ask for?</legend>
      <ElCheckbox v-model="hasForm" label="Asks for form fields with each file" />
      <p v-if="at('form')" class="wrong small">{{ at('form') }}</p>
      <template v-if="rules.form">
        <div v-for="(f, i) in rules.form.fields" :key="i" class="row field">
          <ElInput v-model="f.label" placeholder="Label" :aria-label="`Label of field ${i + 1}`" class="label" />
          <ElSelect v-model="f.value" :aria-label="`Value of field ${i + 1}`" class="value"
            ><ElOption v-for="o in values" :key="o.value" :value="o.value" :label="o.label"
          /></ElSelect>
          <ElCheckbox v-model="f.same" label="must match the file name and the font's name" />
          <ElButton size="small" text :aria-label="`Remove field ${i + 1}`" @click="rules.form.fields.splice(i, 1)"
            >Remove</ElButton
          >
        </div>
        <ElButton size="small" @click="rules.form.fields.push({ label: '', value: 'weight' })">Add a field</ElButton>
        <ElFormItem label="Confirm button label"><ElInput v-model="rules.form.save" maxlength="100" /></ElFormItem>
      </template>
    </fieldset>
    <fieldset v-show="step === 'styles'">
      <legend>Where do styles go?</legend>
      <ElFormItem label="Styles" :error="at('styles.form')"
        ><ElSelect v-model="rules.styles.form" aria-label="Where styles go"
          ><ElOption v-for="o in forms" :key="o.value" :value="o.value" :label="o.label" /></ElSelect
      ></ElFormItem>
      <ElFormItem label="Where to find it, in the platform's words" :error="at('styles.where')"
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
      <ElCheckbox v-model="rules.styles.eachPage" label="Paste on each page" />
      <ElCheckbox v-model="rules.styles.override" label="Override platform styles" />
    </fieldset>
    <fieldset v-show="step === 'after'">
      <legend>What does the platform answer after an upload?</legend>
      <ElCheckbox v-model="rules.urls.after" label="A file URL, known only after the upload" />
      <ElCheckbox v-model="rules.urls.relative" label="Relative URLs work" />
      <p v-if="at('urls.after') || at('urls.relative')" class="wrong small">
        {{ at('urls.after') }} {{ at('urls.relative') }}
      </p>
      <ElFormItem label="Path of the folder, if relative URLs do not work" :error="at('urls.prefix')"
        ><ElInput v-model="rules.urls.prefix" placeholder="/assets/"
      /></ElFormItem>
    </fieldset>
    <fieldset v-show="step === 'roles'">
      <legend>Which selectors or form fields do roles use?</legend>
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
    <div class="row between">
      <ElButton :disabled="!place" @click="step = steps[place - 1]!.value">Back</ElButton>
      <ElButton :disabled="place === steps.length - 1" @click="step = steps[place + 1]!.value">Next</ElButton>
    </div>
  </div>
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
.steps {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  list-style: none;
  margin: 0 0 0.8rem;
  padding: 0;
}
.steps button {
  font: inherit;
  font-size: 0.88rem;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule);
  padding: 0.3rem 0.6rem;
  cursor: pointer;
}
.steps button[aria-current] {
  border-color: var(--sea);
  font-weight: 600;
}
.steps .troubled {
  border-color: var(--bad);
  color: var(--bad);
}
.formats {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(10rem, 1fr));
  width: 100%;
}
.format {
  flex-wrap: nowrap;
}
.between {
  justify-content: space-between;
  margin-bottom: 1rem;
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
