<script setup lang="ts">
import { ElButton, ElMessageBox, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { api, data, message, ProblemError, type Schemas } from '../../api/client'
import { change, versionChanges } from '../../api/queries'
import { bytes, some, when } from '../../composables/show'
import TimeAgo from '../shared/TimeAgo.vue'

/** The files of a face: which are in use and why, who carries which, and what one changed since another. */
const props = defineProps<{ face: Schemas['Face']; base: string; mayHave: boolean }>()
const inUse = (f: Schemas['File']) => (f.current ? 2 : f.beside ? 1 : 0)
const files = computed(() =>
  [...props.face.files].sort((a, b) => inUse(b) - inUse(a) || b.addedAt.localeCompare(a.addedAt)),
)
const to = computed(() => files.value[0]!.id)
const from = ref(files.value[1]?.id ?? 0)
const asked = ref(false)
const { data: c, error, isFetching } = versionChanges(props.face.id, from, to, asked)
const nothing = computed(
  () =>
    c.value &&
    !c.value.added.count &&
    !c.value.gone.count &&
    !c.value.widened &&
    !c.value.redrawnOf &&
    !c.value.values.length &&
    !c.value.tables.length,
)
const touched = ['families', 'sites', 'gaps']
const at = (file: number) => ({ path: { id: props.face.id, file } })
const use = change(
  (file: number) => data(api.PUT('/faces/{id}/file', { params: { path: { id: props.face.id } }, body: { file } })),
  touched,
)
const free = change(() => data(api.DELETE('/faces/{id}/file', { params: { path: { id: props.face.id } } })), touched)
const settle = change(
  (file: number) => data(api.POST('/faces/{id}/files/{file}/settle', { params: at(file) })),
  touched,
)
const record = change(
  (f: Schemas['File']) =>
    data(api.PUT('/faces/{id}/files/{file}/style', { params: at(f.id), body: { style: f.looksLike! } })),
  touched,
)
const remove = change(
  ({ file, anyway }: { file: number; anyway: boolean }) =>
    data(api.DELETE('/faces/{id}/files/{file}', { params: { ...at(file), query: { anyway } } })),
  touched,
  undefined,
  true,
)
const back = change((file: number) => data(api.POST('/faces/{id}/files/{file}/restore', { params: at(file) })), touched)

/** Removes a file; where sites use it, that is said first. */
async function take(f: Schemas['File']) {
  try {
    await remove.mutateAsync({ file: f.id, anyway: false })
  } catch (e) {
    const uses = e instanceof ProblemError && e.problem.code === 'in-use'
    try {
      await ElMessageBox.confirm(message(e), uses ? `Remove ${f.name}?` : 'The file was not removed', {
        confirmButtonText: uses ? 'Remove' : 'Close',
        cancelButtonText: 'Cancel',
        showCancelButton: uses,
      })
    } catch {
      return
    }
    if (uses) await remove.mutateAsync({ file: f.id, anyway: true })
  }
}
const name = (f: Schemas['File']) => `${f.version || 'No version'} (${f.name})`
const few = 40
</script>

<template>
  <ul class="list small">
    <li v-for="f in files" :key="f.id" class="row file">
      <a v-if="mayHave" :href="`${base}/files/${f.id}/content`" :download="f.name">{{ f.name }}</a><span v-else>{{
        f.name
      }}</span>
      <span class="soft"
        >{{ f.format.toUpperCase() }}, {{ bytes(f.bytes) }}, {{ f.version }}, {{ f.addedBy }}, <TimeAgo :at="f.addedAt"
      /></span>
      <strong v-if="f.current || f.beside">in packs</strong>
      <template v-if="mayHave">
        <ElButton
          v-if="f.chosen"
          link
          type="primary"
          :loading="free.isPending.value"
          aria-label="Use the newest in packs"
          @click="free.mutate(undefined)"
          >Use the newest file again</ElButton
        >
        <ElButton
          v-else-if="files.length > 1 && !(f.current && files.every((o) => !o.beside && !o.unsettled))"
          link
          type="primary"
          :loading="use.isPending.value"
          :aria-label="`Use ${f.name} in packs`"
          @click="use.mutate(f.id)"
          >Use in packs</ElButton
        >
        <ElButton link :aria-label="`Remove ${f.name}`" @click="take(f)">Remove</ElButton>
      </template>
      <span v-if="f.why" class="why" :class="f.unsettled ? 'old' : 'soft'">{{ f.why }}</span>
      <span v-if="f.unsettled && mayHave" class="row why">
        <ElButton
          v-if="f.looksLike"
          size="small"
          :loading="record.isPending.value"
          :aria-label="`Record ${f.name} as ${f.looksLike}`"
          @click="record.mutate(f)"
          >Record it as {{ f.looksLike }}</ElButton
        >
        <ElButton size="small" :aria-label="`${f.name} counts`" @click="settle.mutate(f.id)">Use this file</ElButton>
        <ElButton
          v-if="files[0]"
          size="small"
          :aria-label="`${f.name} does not count`"
          @click="settle.mutate(files[0].id)"
          >Keep the file in packs</ElButton
        >
      </span>
      <details v-if="f.range" class="why soft">
        <summary>Characters</summary>
        {{ f.range }}
      </details>
      <span v-if="f.carriedBy.length" :class="{ old: !f.current }"
        >{{ f.current ? 'Used by' : 'Old version, still used by' }}
        <template v-for="(s, i) in f.carriedBy" :key="s.id"
          >{{ i ? ', ' : '' }}<RouterLink :to="`/sites/${s.id}`">{{ s.name }}</RouterLink></template
        ></span
      >
    </li>
  </ul>
  <template v-if="face.removed?.length">
    <p class="soft small">Removed files that can be restored:</p>
    <ul class="list small">
      <li v-for="f in face.removed" :key="f.id" class="row file">
        <span>{{ f.name }}</span>
        <span class="soft">{{ f.removedBy }}, {{ when(f.removedAt!) }}; deleted on {{ when(f.goneAt!) }}</span>
        <ElButton v-if="mayHave" link type="primary" :aria-label="`Restore ${f.name}`" @click="back.mutate(f.id)"
          >Restore</ElButton
        >
      </li>
    </ul>
  </template>
  <details v-if="files.length > 1" class="since" @toggle="asked ||= ($event.target as HTMLDetailsElement).open">
    <summary>Compare versions</summary>
    <label class="row small"
      ><span class="soft">Since</span
      ><ElSelect v-model="from" aria-label="Compare with version" class="which"
        ><ElOption v-for="f in files.slice(1)" :key="f.id" :value="f.id" :label="name(f)" /></ElSelect
    ></label>
    <p v-if="error" class="old">{{ error.message }}</p>
    <p v-else-if="isFetching" class="soft small">Comparing …</p>
    <p v-else-if="nothing">No changes but the format.</p>
    <dl v-else-if="c" class="metadata small">
      <template v-if="c.added.count"
        ><dt>Added</dt>
        <dd>{{ some(c.added.count, 'character') }}: {{ c.added.text }}</dd></template
      >
      <template v-if="c.gone.count"
        ><dt>Gone</dt>
        <dd class="old">{{ some(c.gone.count, 'character') }}: {{ c.gone.text }}</dd></template
      >
      <template v-if="c.widened"
        ><dt>Changed widths</dt>
        <dd>
          {{ some(c.widened, 'character') }}:
          <span v-for="w in c.widths.slice(0, few)" :key="w.character" class="width"
            >{{ w.character }} {{ w.from }} → {{ w.to }}</span
          ><template v-if="c.widened > few"> and more</template>
        </dd></template
      >
      <template v-if="c.redrawnOf"
        ><dt>Redrawn</dt>
        <dd>{{ some(c.redrawnOf, 'character') }}: {{ c.redrawn.join(' ') }}</dd></template
      >
      <template v-if="c.uncompared"
        ><dt>Drawings</dt>
        <dd>{{ c.uncompared }}</dd></template
      >
      <template v-for="v in c.values" :key="v.name"
        ><dt class="said">{{ v.name }}</dt>
        <dd>{{ v.from || 'nothing' }} → {{ v.to || 'nothing' }}</dd></template
      >
      <dt>Bytes</dt>
      <dd>{{ c.tables.map((t) => `${t.tag.trim()} ${t.from} → ${t.to}`).join(', ') }}</dd>
    </dl>
  </details>
</template>

<style scoped>
.file {
  padding: 0.3rem 0;
}
.which {
  width: min(30rem, 80vw);
}
.old {
  color: var(--caution);
}
.why {
  flex-basis: 100%;
  overflow-wrap: anywhere;
}
.width {
  white-space: nowrap;
  margin-right: 0.7rem;
}
.said::first-letter {
  text-transform: uppercase;
}
.since summary {
  cursor: pointer;
  color: var(--sea);
  padding: 0.4rem 0;
}
</style>
