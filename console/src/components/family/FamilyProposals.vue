<script setup lang="ts">
import { ElButton } from 'element-plus'
import { toRef } from 'vue'
import { api, base, data } from '../../api/client'
import { change, proposals } from '../../api/queries'

/** What a family's files and the documents beside them say of a license, to be confirmed with one press. */
const props = defineProps<{ id: number; mayEdit: boolean }>()
const { data: said } = proposals(toRef(props, 'id'))
const confirm = change(
  (spdx: string) => data(api.POST('/families/{id}/proposals', { params: { path: { id: props.id } }, body: { spdx } })),
  ['families', 'licenses', 'sites'],
)
</script>

<template>
  <section v-if="said && (said.items.length || said.warnings.length)" class="sheet" aria-label="License proposals">
    <h3>License proposals</h3>
    <div v-for="p in said.items" :key="p.spdx" class="one">
      <div class="row split">
        <span
          ><strong>{{ p.title }}</strong>
          <span class="soft small">{{ p.spdx }}, {{ Math.round(p.confidence * 100) }} % sure</span></span
        >
        <span v-if="p.license" class="small clear">recorded as license {{ p.license.id }}</span>
        <ElButton
          v-else-if="mayEdit"
          size="small"
          type="primary"
          :loading="confirm.isPending.value"
          @click="confirm.mutate(p.spdx)"
          >Confirm {{ p.spdx }}</ElButton
        >
      </div>
      <p class="small">
        {{ p.copies }}<template v-if="p.reserved.length"> Reserved: {{ p.reserved.join(', ') }}.</template>
      </p>
      <blockquote v-for="f in p.findings" :key="f.source + f.quote" class="small">
        “{{ f.quote }}”
        <cite
          ><a
            v-if="f.familyDocument"
            :href="`${base}/family-documents/${f.familyDocument}/content?inline=true`"
            target="_blank"
            >{{ f.source }}</a
          ><template v-else>{{ f.source }}</template></cite
        >
      </blockquote>
    </div>
    <div v-for="f in said.warnings" :key="f.source + f.quote" class="one">
      <blockquote class="small warn">
        “{{ f.quote }}”
        <cite
          ><a
            v-if="f.familyDocument"
            :href="`${base}/family-documents/${f.familyDocument}/content?inline=true`"
            target="_blank"
            >{{ f.source }}</a
          ><template v-else>{{ f.source }}</template></cite
        >
      </blockquote>
    </div>
  </section>
</template>

<style scoped>
h3 {
  font-size: 0.95rem;
  margin: 0 0 0.3rem;
}
.split {
  justify-content: space-between;
}
.one p {
  margin: 0.2rem 0;
}
.one + .one {
  margin-top: 0.7rem;
}
blockquote {
  margin: 0.25rem 0;
  padding-left: 0.7rem;
  border-left: 3px solid var(--rule);
  overflow-wrap: anywhere;
}
.warn {
  border-left-color: var(--bad);
}
cite {
  font-style: normal;
  color: var(--ink-soft);
}
.cleared {
  color: var(--good);
}
</style>
