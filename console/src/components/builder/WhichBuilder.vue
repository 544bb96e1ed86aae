<script setup lang="ts">
import { ElButton, ElDialog, ElRadio, ElRadioGroup } from 'element-plus'
import { computed, ref } from 'vue'
import type { Schemas } from '../../api/client'
import { builders } from '../../api/queries'
import { inShort, questions, suggest, type Answers } from '../../composables/whichbuilder'

/** Five questions that find the builder rules that fit a platform; each can be left open. */
defineProps<{ choice?: boolean }>()
const emit = defineEmits<{ choose: [kind: string] }>()
const open = defineModel<boolean>({ required: true })
const { data: found } = builders()
const answers = ref<Answers>({})
const any = computed(() => Object.values(answers.value).some(Boolean))
const fitting = computed(() => suggest(found.value?.items ?? [], answers.value).slice(0, 3))
function choose(b: Schemas['BuilderRecord']) {
  emit('choose', b.rules.kind)
  open.value = false
}
</script>

<template>
  <ElDialog v-model="open" title="Which builder is mine?" width="min(60rem, 94vw)" top="4vh" append-to-body>
    <div class="two">
      <div>
        <fieldset v-for="(q, i) in questions" :key="q.key">
          <legend>{{ i + 1 }}. {{ q.asks }}</legend>
          <ElRadioGroup v-model="answers[q.key]" :aria-label="q.asks">
            <ElRadio v-for="a in q.answers" :key="a.value" :value="a.value">{{ a.label }}</ElRadio>
            <ElRadio value="">Not sure</ElRadio>
          </ElRadioGroup>
        </fieldset>
      </div>
      <section aria-live="polite" aria-label="Builders that fit">
        <h3>Builders that fit</h3>
        <p v-if="!any" class="soft">Answer what you know about the platform. Each answer narrows the list.</p>
        <p v-else-if="!fitting.length" class="soft">
          None fits. Copy the rules of a builder that comes close, and change them.
        </p>
        <ol v-else class="fitting">
          <li v-for="(s, i) in fitting" :key="s.builder.rules.kind" :class="{ best: !i }">
            <strong>{{ s.builder.rules.name }}</strong>
            <p class="small">{{ s.builder.rules.about }}</p>
            <p class="soft small">{{ inShort(s.builder.rules) }}</p>
            <p v-if="s.misses.length" class="small caution">Does not fit: {{ s.misses.join('; ') }}</p>
            <ElButton v-if="choice" size="small" :type="i ? 'default' : 'primary'" @click="choose(s.builder)"
              >Choose</ElButton
            >
            <RouterLink v-else :to="`/builders/${s.builder.rules.kind}`">Open</RouterLink>
          </li>
        </ol>
      </section>
    </div>
  </ElDialog>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1.15fr) minmax(0, 1fr);
  gap: 2rem;
  align-items: start;
}
section {
  position: sticky;
  top: 0;
}
fieldset {
  border: 0;
  margin: 0 0 1rem;
  padding: 0;
}
legend {
  font-weight: 600;
  padding: 0;
  margin-bottom: 0.2rem;
}
fieldset :deep(.el-radio-group) {
  display: grid;
  justify-items: start;
}
fieldset :deep(.el-radio) {
  height: auto;
  min-height: 1.75rem;
  margin-right: 0;
  white-space: normal;
}
h3 {
  margin-top: 0;
}
.fitting {
  list-style: none;
  margin: 0;
  padding: 0;
}
.fitting li {
  border: 1px solid var(--rule);
  padding: 0.7rem 0.9rem;
  margin-bottom: 0.6rem;
}
.fitting .best {
  border-color: var(--sea);
}
.fitting p {
  margin: 0.2rem 0;
}
.caution {
  color: var(--caution);
}
@media (max-width: 46rem) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
