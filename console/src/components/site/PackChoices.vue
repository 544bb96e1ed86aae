<script setup lang="ts">
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change } from '../../api/queries'
import { bytes } from '../../composables/show'
import SiteRecipe from './SiteRecipe.vue'
import VerdictTag from '../shared/VerdictTag.vue'

/** Every face of the site's families: whether it is sent and what becomes of it, changed on the spot. */
const props = defineProps<{ plan: Schemas['Plan']; mayEdit: boolean; busy: boolean }>()
const choices = computed(() => props.plan.site.choices)
const set = change(
  (more: Schemas['PackChoices']) =>
    data(
      api.PUT('/sites/{id}/choices', {
        params: { path: { id: props.plan.site.id }, header: { 'If-Match': props.plan.site.etag } },
        body: { ...choices.value, ...more },
      }),
    ),
  ['sites'],
)
const pinned = computed(() => props.plan.faces.some((f) => f.changes.includes('pinned at the weight')))
const pinAt = ref('')
const reshaping = ref<Schemas['SiteFamily']>()
watch(
  () => choices.value.weights,
  (now) => (pinAt.value = now?.join(', ') ?? ''),
  { immediate: true },
)

function send(f: Schemas['PlanFace'], on: boolean) {
  const without = (list?: number[]) => (list ?? []).filter((id) => id !== f.face)
  const needed = f.needed !== '' || !props.plan.site.roles.some((r) => r.family.id === f.family.id)
  set.mutate({
    include: on && !needed ? [...without(choices.value.include), f.face] : without(choices.value.include),
    exclude: !on && needed ? [...without(choices.value.exclude), f.face] : without(choices.value.exclude),
  })
}
/** Sends this face of its family and no other. */
function only(f: Schemas['PlanFace']) {
  const mates = props.plan.faces.filter((o) => o.family.id === f.family.id).map((o) => o.face)
  const without = (list?: number[]) => (list ?? []).filter((id) => !mates.includes(id))
  set.mutate({
    include: [...without(choices.value.include), f.face],
    exclude: [...without(choices.value.exclude), ...mates.filter((id) => id !== f.face)],
  })
}
const mates = (f: Schemas['PlanFace']) => props.plan.faces.filter((o) => o.family.id === f.family.id).length
const stay = (f: Schemas['PlanFace'], file: number) =>
  set.mutate({
    pinned: [
      ...(choices.value.pinned ?? []).filter((s) => s.face !== f.face),
      ...(file ? [{ face: f.face, file }] : []),
    ],
  })
const pin = () =>
  set.mutate({
    weights: pinAt.value
      .split(/[\s,]+/)
      .map(Number)
      .filter((n) => n > 0),
  })
</script>

<template>
  <div class="wide" :class="{ stale: busy }">
    <table class="plain small">
      <thead>
        <tr>
          <th>Included</th>
          <th>Face</th>
          <th>File</th>
          <th>Used for</th>
          <th>Verdict</th>
          <th class="num">Size</th>
          <th class="num">Subsetting saves</th>
          <th>Changes made to the file</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="f in plan.faces" :key="f.face" :class="{ left: !f.included }">
          <td>
            <input
              type="checkbox"
              :checked="f.included"
              :disabled="!mayEdit || busy"
              :aria-label="`Include ${f.full}`"
              @change="send(f, ($event.target as HTMLInputElement).checked)"
            />
          </td>
          <td>
            {{ f.full }}
            <button
              v-if="mayEdit && mates(f) > 2"
              type="button"
              class="act only"
              :disabled="busy"
              :aria-label="`Include only ${f.full}`"
              @click="only(f)"
            >
              only this face
            </button>
          </td>
          <td>
            <ElSelect
              v-if="mayEdit && (f.otherFiles.length || f.pinned)"
              :model-value="f.pinned ? f.file.id : 0"
              size="small"
              class="file"
              :disabled="busy"
              :aria-label="`Which file of ${f.full}`"
              @update:model-value="(file: number) => stay(f, file)"
              ><ElOption :value="0" label="the catalog's current file" /><ElOption
                v-for="o in [f.file, ...f.otherFiles]"
                :key="o.id"
                :value="o.id"
                :label="`pin to ${o.version || 'no version'}, ${o.name}`" /></ElSelect
            ><span v-else class="soft">{{ f.file.version }}</span>
            <span v-if="f.parts" class="soft"> in {{ f.parts }} parts</span>
          </td>
          <td class="soft">{{ f.needed }}</td>
          <td><VerdictTag :state="f.verdict" /></td>
          <td class="num">{{ f.bytes ? bytes(f.bytes) : '' }}</td>
          <td class="num soft">{{ f.measuring ? 'measuring …' : f.subsetSaves ? bytes(f.subsetSaves) : '' }}</td>
          <td class="soft">{{ f.changes }}</td>
        </tr>
      </tbody>
    </table>
  </div>
  <div v-if="mayEdit" class="row small also">
    <label v-if="plan.for === 'web' && (plan.stylesheet || plan.missingUrls.length || plan.styles)" class="row"
      ><input
        type="checkbox"
        :checked="!!choices.legacyFormats"
        :disabled="busy"
        @change="set.mutate({ legacyFormats: ($event.target as HTMLInputElement).checked })"
      />Include legacy formats (EOT, SVG, WOFF) for Internet Explorer and early phones</label
    >
    <span class="row"
      >If the supplier delivered web fonts, include
      <ElSelect
        :model-value="choices.source || 'supplied'"
        size="small"
        aria-label="Which files to include"
        class="call"
        :disabled="busy"
        @update:model-value="(source: 'supplied' | 'converted' | 'smaller') => set.mutate({ source })"
        ><ElOption value="supplied" label="the supplier's files" /><ElOption
          value="converted"
          label="converted files" /><ElOption value="smaller" label="the smaller files" /></ElSelect
    ></span>
    <span v-if="plan.pastes.length && plan.stylesheet" class="row"
      >Load the stylesheet by
      <ElSelect
        :model-value="choices.load || 'usual'"
        size="small"
        aria-label="How pages load the stylesheet"
        class="call"
        @update:model-value="
          (load: string) => set.mutate({ load: load === 'usual' ? '' : (load as Schemas['PackChoices']['load']) })
        "
        ><ElOption value="usual" label="the builder's default" /><ElOption value="link" label="a link" /><ElOption
          value="import"
          label="an import rule" /><ElOption value="url" label="its URL" /></ElSelect
    ></span>
    <button
      v-for="f in plan.site.families.filter((f) => !f.hosts.length)"
      :key="f.family.id"
      type="button"
      class="act"
      @click="reshaping = f"
    >
      Subset or change {{ f.family.name }}
    </button>
    <form v-if="pinned" class="row" @submit.prevent="pin">
      <ElInput
        v-model="pinAt"
        size="small"
        placeholder="400, 700"
        aria-label="Weights for static instances"
        class="pin"
      /><span>weights for static instances; press Enter</span>
    </form>
  </div>
  <SiteRecipe v-if="mayEdit" v-model="reshaping" :site="plan.site.outletOf?.id ?? plan.site.id" />
</template>

<style scoped>
.only {
  margin-left: 0.4rem;
}
.left td {
  color: var(--ink-soft);
}
.stale {
  opacity: 0.5;
}
.also {
  margin-top: 0.6rem;
  gap: 0.6rem 1.6rem;
}
.call {
  width: 12rem;
}
.pin {
  width: 8rem;
}
.file {
  width: 15rem;
}
.act {
  color: var(--sea);
  background: none;
  border: 0;
  padding: 0;
  font: inherit;
  cursor: pointer;
  text-decoration: underline;
}
input[type='checkbox'] {
  width: 1.05rem;
  height: 1.05rem;
  accent-color: var(--sea);
}
</style>
