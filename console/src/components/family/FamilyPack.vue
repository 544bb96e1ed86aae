<script setup lang="ts">
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { SignOffForm } from '../forms'
import { api, data, ProblemError, type Schemas } from '../../api/client'
import { builders, change } from '../../api/queries'
import { saveBlob } from '../../composables/builder'

/** A pack of the family for a builder, without a site: to install it, or to try a builder. */
const props = defineProps<{ family: Schemas['Family'] }>()
const { data: kinds } = builders()
const open = computed(() => kinds.value?.items.filter((b) => !b.rules.urls.after) ?? [])
const kind = ref('desktop')
const refused = ref('')
const signing = ref<{ id: number; name: string }>()
watch(kind, () => (refused.value = ''))
const build = change(async () => {
  refused.value = ''
  try {
    const zip = await data(
      api.GET('/families/{id}/pack', {
        params: { path: { id: props.family.id }, query: { builder: kind.value } },
        parseAs: 'blob',
      }),
    )
    saveBlob(zip as unknown as Blob, `${props.family.name} for ${kind.value}.zip`)
  } catch (e) {
    if (!(e instanceof ProblemError) || e.problem.code !== 'not-clear') throw e
    refused.value = e.message
  }
}, [])
</script>

<template>
  <form class="row" :aria-label="`Pack of ${family.name}`" @submit.prevent="build.mutate(undefined)">
    <ElSelect v-model="kind" aria-label="Builder for a pack without a site" class="kind"
      ><ElOption v-for="b in open" :key="b.rules.kind" :value="b.rules.kind" :label="b.rules.name"
    /></ElSelect>
    <ElButton native-type="submit" :loading="build.isPending.value">Pack without a site</ElButton>
  </form>
  <div v-if="refused" role="alert" class="sheet refused">
    <p>{{ refused }}</p>
    <ElButton size="small" @click="signing = family">Sign off for this builder</ElButton>
  </div>
  <SignOffForm v-model="signing" :builder="kind" @signed="build.mutate(undefined)" />
</template>

<style scoped>
.kind {
  width: min(24rem, 100%);
}
.refused {
  margin-top: 0.8rem;
}
.refused p {
  margin: 0 0 0.5rem;
}
</style>
