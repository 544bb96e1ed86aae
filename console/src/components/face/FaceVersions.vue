<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref } from 'vue'
import { api, data, type Schemas } from '../../api/client'
import { change, versionChanges } from '../../api/queries'
import { bytes, some, when } from '../../state/show'

/** The files of a face: who carries which, and what one changed since another. */
const props = defineProps<{ face: Schemas['Face']; base: string; mayHave: boolean }>()
const files = computed(() =>
  [...props.face.files].sort((a, b) => Number(b.current) - Number(a.current) || b.addedAt.localeCompare(a.addedAt)),
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
const use = change(
  (file: number) => data(api.PUT('/faces/{id}/file', { params: { path: { id: props.face.id } }, body: { file } })),
  ['families', 'sites'],
)
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
        >{{ f.container.toUpperCase() }}, {{ bytes(f.bytes) }}, {{ f.version }}, {{ f.addedBy }},
        {{ when(f.addedAt) }}</span
      >
      <strong v-if="f.current">in packs</strong>
      <ElButton
        v-else-if="mayHave"
        link
        type="primary"
        :loading="use.isPending.value"
        :aria-label="`Use ${f.name} in packs`"
        @click="use.mutate(f.id)"
        >Use in packs</ElButton
      >
      <span v-if="f.why && f.outcome !== 'sibling'" class="soft why">{{ f.why }}</span>
      <span v-if="f.carriedBy.length" :class="{ old: !f.current }"
        >{{ f.current ? 'Carried by' : 'An old one, still carried by' }}
        <template v-for="(s, i) in f.carriedBy" :key="s.id"
          >{{ i ? ', ' : '' }}<RouterLink :to="`/sites/${s.id}`">{{ s.name }}</RouterLink></template
        ></span
      >
    </li>
  </ul>
  <details v-if="files.length > 1" class="since" @toggle="asked ||= ($event.target as HTMLDetailsElement).open">
    <summary>What changed</summary>
    <label class="row small"
      ><span class="soft">Since</span
      ><ElSelect v-model="from" aria-label="Since which version" class="which"
        ><ElOption v-for="f in files.slice(1)" :key="f.id" :value="f.id" :label="name(f)" /></ElSelect
    ></label>
    <p v-if="error" class="old">{{ error.message }}</p>
    <p v-else-if="isFetching" class="soft small">Comparing …</p>
    <p v-else-if="nothing">Nothing but the container.</p>
    <dl v-else-if="c" class="facts small">
      <template v-if="c.added.count"
        ><dt>Added</dt>
        <dd>{{ some(c.added.count, 'character') }}: {{ c.added.text }}</dd></template
      >
      <template v-if="c.gone.count"
        ><dt>Gone</dt>
        <dd class="old">{{ some(c.gone.count, 'character') }}: {{ c.gone.text }}</dd></template
      >
      <template v-if="c.widened"
        ><dt>Other widths</dt>
        <dd>
          {{ some(c.widened, 'character') }}:
          <span v-for="w in c.widths.slice(0, few)" :key="w.character" class="width"
            >{{ w.character }} {{ w.from }} → {{ w.to }}</span
          ><template v-if="c.widened > few"> and more</template>
        </dd></template
      >
      <template v-if="c.redrawnOf"
        ><dt>Drawn anew</dt>
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
  color: var(--query);
}
.why {
  flex-basis: 100%;
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
