<script setup lang="ts">
import { ElButton } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../../api/client'
import { label, uses } from '../../composables/show'
import { statedFields, type Stated } from '../../composables/stated'

/** What a license document states, each with its quote, and a way to take it into the form. */
const props = defineProps<{ stated: Schemas['StatedTerms']; fields: readonly Stated['field'][] }>()
const emit = defineEmits<{ use: [term: Stated]; families: [families: Schemas['Ref'][]] }>()
const used = ref<Stated[]>([])
const named = ref(false)
watch(
  () => props.stated,
  () => {
    used.value = []
    named.value = false
  },
)

const takes = (t: Stated) =>
  !!t.value && props.fields.includes(t.field) && (t.field !== 'granted-to' || !!props.stated.client)
const left = computed(() => props.stated.terms.filter((t) => takes(t) && !used.value.includes(t)))

const shown = (t: Stated) => {
  if (!t.value) return t.open ?? ''
  return t.field === 'use' || t.field === 'not-use' ? label(uses, t.value as Schemas['Use']) : t.value
}

function take(t: Stated) {
  used.value.push(t)
  emit('use', t)
}

function takeAll() {
  for (const t of left.value) take(t)
  if (props.stated.families.length && !named.value) takeFamilies()
}

function takeFamilies() {
  named.value = true
  emit('families', props.stated.families)
}
</script>

<template>
  <section class="stated" aria-label="Terms in the document">
    <div class="row head">
      <strong class="small">{{ stated.name }} states</strong>
      <ElButton v-if="left.length > 1" size="small" @click="takeAll">Use all</ElButton>
    </div>
    <p v-if="!stated.terms.length" class="small soft">No terms found in this document. Enter them by hand.</p>
    <dl class="small">
      <template v-for="(t, i) in stated.terms" :key="i">
        <dt>{{ statedFields[t.field] }}</dt>
        <dd>
          <div class="row">
            <span :class="{ soft: !t.value }">{{ shown(t) }}</span>
            <span v-if="t.field === 'granted-to' && !stated.client" class="soft">is not a client yet</span>
            <ElButton
              v-if="takes(t)"
              size="small"
              text
              :disabled="used.includes(t)"
              :aria-label="`Use ${shown(t)}`"
              @click="take(t)"
              >{{ used.includes(t) ? 'Used' : 'Use' }}</ElButton
            >
          </div>
          <q class="soft">{{ t.quote }}</q><span v-if="t.where" class="soft">, {{ t.where }}</span>
        </dd>
      </template>
      <template v-if="stated.families.length && fields.includes('granted-to')">
        <dt>Families</dt>
        <dd class="row">
          <span>{{ stated.families.map((f) => f.name).join(', ') }}</span>
          <ElButton size="small" text :disabled="named" @click="takeFamilies">{{ named ? 'Used' : 'Use' }}</ElButton>
        </dd>
      </template>
      <template v-for="(w, i) in stated.warnings" :key="`warning ${i}`">
        <dt class="alarm">Warning</dt>
        <dd>
          <q class="soft">{{ w.quote }}</q>
        </dd>
      </template>
    </dl>
  </section>
</template>

<style scoped>
.stated {
  border-left: 3px solid var(--rule);
  padding: 0.2rem 0 0.2rem 0.9rem;
  margin: 0.3rem 0 1rem;
  width: 100%;
  max-height: 19rem;
  overflow-y: auto;
}
.head {
  justify-content: space-between;
}
dl {
  display: grid;
  grid-template-columns: 8.5rem minmax(0, 1fr);
  gap: 0.35rem 0.8rem;
  margin: 0.3rem 0;
  line-height: 1.45;
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.alarm {
  color: var(--caution);
}
</style>
