<script setup lang="ts">
import { computed, ref, toRef, watch } from 'vue'
import { builders, me, site } from '../api/queries'
import PackPanel from '../components/site/PackPanel.vue'
import SiteHead from '../components/site/SiteHead.vue'
import SiteFileURLs from '../components/site/SiteFileURLs.vue'
import SitePages from '../components/site/SitePages.vue'
import Trouble from '../components/shared/Trouble.vue'

const props = defineProps<{ id: number }>()
const { data: s, error } = site(toRef(props, 'id'))
const { data: kinds } = builders()
const { data: person } = me()
const mayEdit = computed(() => person.value?.role !== 'viewer')
const environment = ref('')
watch(
  s,
  (now) => {
    if (!now?.environments.some((e) => e.name === environment.value))
      environment.value = now?.environments[0]?.name ?? ''
  },
  { immediate: true },
)
const rules = computed(() => kinds.value?.items.find((b) => b.rules.kind === s.value?.builder.kind)?.rules)
</script>

<template>
  <div class="page">
    <Trouble v-if="error" :error="error" />
    <template v-else-if="s">
      <SiteHead :site="s" />
      <PackPanel v-model:environment="environment" :site="s" :may-edit="mayEdit" />
      <SiteFileURLs
        v-if="rules?.urls.after && s.families.length"
        :id="id"
        :key="`urls ${id} ${environment}`"
        :environment="environment"
        :may-edit="mayEdit"
      />
      <SitePages :id="id" :key="`pages ${id}`" :may-edit="mayEdit" />
    </template>
    <p v-else class="soft">Loading …</p>
  </div>
</template>
